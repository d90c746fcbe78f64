"""What everything else is built on: problems, addresses, dates, tables, plug-ins, progress, other processes."""
