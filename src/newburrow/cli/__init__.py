"""The command line: argparse, tables, progress. One module for each command; no logic of the job."""
