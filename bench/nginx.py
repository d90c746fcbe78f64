"""Measures what redirects cost nginx for a page of the new site: `python bench/nginx.py [--rounds N] [ADDRESSES]`.

Prints the processor time of the worker for each request of a page of 8 KB that no redirect is about: without redirects,
with them, and with them and `pcre_jit on`. Each figure is the least of all rounds, since a shared machine only adds to it.
"""

from __future__ import annotations

import argparse
import os
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from run import PROGRAM

from redirects import MOVE, NEW, OLD, shaped

_REQUESTS = 150_000
_PAGE = "new/page.html"
_CONFIG = """{main} pid {folder}/{name}.pid; error_log {folder}/log; worker_processes 1; events {{}}
http {{ access_log off; keepalive_requests 1000000; sendfile on; {maps}
server {{ listen 127.0.0.1:{port}; {rules} location / {{ root {folder}/site; }} }} }}
"""
_TICK = 1_000_000 / os.sysconf("SC_CLK_TCK")  # µs


class Server:
    """An nginx with one worker."""

    def __init__(self, folder: Path, name: str, port: int, *parts: str) -> None:
        main, maps, rules = parts
        self.folder, self.name, self.port = folder, name, port
        text = _CONFIG.format(
            folder=folder, name=name, port=port, main=main, maps=maps, rules=rules
        )
        (folder / name).write_text(text)
        nginx = shutil.which("nginx", path="/usr/sbin:/usr/bin") or sys.exit(
            "nginx is not installed"
        )
        subprocess.run([nginx, "-c", folder / name], check=True)
        time.sleep(0.5)
        self.master = int((folder / f"{name}.pid").read_text())
        children = Path(f"/proc/{self.master}/task/{self.master}/children").read_text()
        self.worker = int(children.split()[0])

    def cost(self) -> float:
        """µs of processor time for each request."""
        before = self._ticks()
        address = f"http://127.0.0.1:{self.port}/{_PAGE}"
        subprocess.run(
            ["ab", "-q", "-k", "-n", str(_REQUESTS), "-c", "8", address],
            check=True,
            capture_output=True,
        )
        return (self._ticks() - before) * _TICK / _REQUESTS

    def _ticks(self) -> int:
        fields = Path(f"/proc/{self.worker}/stat").read_text().rpartition(")")[2].split()
        return int(fields[11]) + int(fields[12])


def main() -> None:
    """Measure, and print a table."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rounds", type=int, default=5)
    parser.add_argument("addresses", type=int, nargs="?", default=100_000)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        folder.chmod(0o755)
        page = folder / "site" / _PAGE
        page.parent.mkdir(parents=True)
        page.write_text("a" * 8000)
        table = folder / "move/redirects/addresses.csv"
        table.parent.mkdir(parents=True)
        (folder / "move/move.toml").write_text(MOVE)
        with table.open("w") as stream:
            stream.write("old,new,status,why\r\n")
            for old, new in shaped(options.addresses):
                stream.write(f"{OLD}{old},{NEW}{new},301,permalink\r\n")
        subprocess.run(
            [PROGRAM, "redirects", folder / "move", "--for", "nginx", "--quiet"],
            check=True,
            stdout=subprocess.DEVNULL,
        )
        written = folder / "move/redirects/nginx"
        rules = (
            f"include {written}/newburrow-maps.conf;",
            f"include {written}/newburrow-server.conf;",
        )
        servers = [
            Server(folder, "without", 9101, "", "", ""),
            Server(folder, "redirects", 9102, "", *rules),
            Server(folder, "with-pcre_jit", 9103, "pcre_jit on;", *rules),
        ]
        try:
            costs = [[server.cost() for server in servers] for _round in range(options.rounds)]
        finally:
            for server in servers:
                os.kill(server.master, 15)
    least = [min(measured) for measured in zip(*costs, strict=True)]
    for server, cost in zip(servers, least, strict=True):
        print(
            f"{server.name:<16}{cost:6.1f} µs a request{least[0] / cost:6.2f} of the speed without"
        )


if __name__ == "__main__":
    main()
