"""What scripts run when pieces of HTML are shown in Chromium, and everything in them is clicked and focused."""

import html
import re
import shutil
import subprocess
from collections.abc import Sequence
from pathlib import Path
from tempfile import TemporaryDirectory

_CHROMIUM = shutil.which("chromium") or "chromium"
_PATIENCE = (
    30,
    120,
)  # seconds that the browser may take; the second time a busy machine has them too
_A_PAGE = 300  # pieces shown at a time
_TOP = """<!doctype html><meta charset="utf-8"><script>
function hit(n) { console.log("HIT<" + n + ">"); }
addEventListener("message", message => hit(message.data));
</script><body>
"""
_EACH = "<!doctype html><body><script>window.hit = n => parent.hit(n)</script>"
_BOTTOM = """<script>
function shown() {
  for (const frame of document.querySelectorAll("body > iframe")) {
    let nodes = [];
    try { nodes = [...frame.contentDocument.querySelectorAll("body *")]; } catch (error) { continue; }
    for (const node of [...nodes, ...nodes.flatMap(node => node.shadowRoot ? [...node.shadowRoot.querySelectorAll("*")] : [])]) {
      for (const name of ["mouseover", "focus", "click", "submit", "change", "toggle"]) {
        try {
          if (name === "click" && node.click) node.click();
          else if (name === "focus" && node.focus) node.focus();
          else node.dispatchEvent(new MouseEvent(name, {bubbles: true, cancelable: true}));
        } catch (error) { }
      }
    }
  }
}
setTimeout(shown, 300);
hit("shown");
</script>
"""


def hits(pieces: Sequence[str], folder: Path) -> set[str]:
    """What `hit` was called with by scripts in these pieces of HTML; `folder` takes the pages that show them."""
    found: set[str] = set()
    for first in range(0, len(pieces), _A_PAGE):
        page = folder / f"shown-{first}.html"
        frames = (
            f'<iframe srcdoc="{html.escape(_EACH + piece)}"></iframe>\n'
            for piece in pieces[first : first + _A_PAGE]
        )
        page.write_text(_TOP + "".join(frames) + _BOTTOM, "utf-8", "replace")
        found |= _run(page)
    return found


def hits_of_page(page: Path) -> set[str]:
    """The same for one page as it is; its scripts must call `hit` as a global function that it does not have."""
    text = page.read_text("utf-8", "replace")
    shown = page.with_name(f"shown-{page.name}")
    shown.write_text(
        _TOP + text + "<!-- --></script></style></textarea>" + _BOTTOM, "utf-8", "replace"
    )
    return _run(shown)


def _run(page: Path) -> set[str]:
    # A browser that is stopped may go on writing for a moment.
    with TemporaryDirectory(ignore_cleanup_errors=True) as profile:
        return _shown(page, profile)


def _shown(page: Path, profile: str) -> set[str]:
    words = [
        _CHROMIUM, "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-sync",
        "--host-resolver-rules=MAP * ~NOTFOUND", f"--user-data-dir={profile}", "--virtual-time-budget=4000",
        "--enable-logging=stderr", "--dump-dom", page.as_uri(),
    ]  # fmt: skip
    for seconds in _PATIENCE:
        shown, said = _output(words, seconds)
        if b"<html" in shown and b"HIT<shown>" in said:
            return set(re.findall(r"HIT<([^>]*)>", said.decode("utf-8", "replace"))) - {"shown"}
    raise AssertionError(f"Chromium did not show the page: {said[-500:]!r}")


def _output(words: Sequence[str], seconds: int) -> tuple[bytes, bytes]:
    """What the browser prints, and what it logs."""
    try:
        run = subprocess.run(words, capture_output=True, timeout=seconds, check=False)
    except (
        subprocess.TimeoutExpired
    ) as error:  # a script that ran can keep the page from ending
        return b"<html", error.stderr or b""
    return run.stdout, run.stderr
