"""`python -m newburrow`."""

import sys

from newburrow.cli.main import main

sys.exit(main())
