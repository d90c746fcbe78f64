"""Real servers on a loopback port, with redirects as we write them."""

from __future__ import annotations

import http.client
import os
import shutil
import socket
import subprocess
import time
from collections.abc import Sequence
from pathlib import Path

from newburrow.decide.decisions import Redirects
from newburrow.redirects.redirect_map import RedirectMap, RedirectMaps
from newburrow.store.journal.rows import OldAddress

NGINX = (
    shutil.which("nginx", path=os.environ.get("PATH", "") + ":/usr/sbin:/usr/local/sbin")
    or "nginx"
)
HTTPD = (
    shutil.which("apache2", path=os.environ.get("PATH", "") + ":/usr/sbin:/usr/local/sbin")
    or "apache2"
)
HAPROXY = (
    shutil.which("haproxy", path=os.environ.get("PATH", "") + ":/usr/sbin:/usr/local/sbin")
    or "haproxy"
)
CADDY = shutil.which("caddy") or "caddy"
LIGHTTPD = (
    shutil.which("lighttpd", path=os.environ.get("PATH", "") + ":/usr/sbin:/usr/local/sbin")
    or "lighttpd"
)
MODULES = "/usr/lib/apache2/modules"
HERE = "a page of the new site"
HOST = "mistlebank.example"

_CONFIG = """
daemon off; master_process off; pid {folder}/pid; error_log {folder}/error.log; worker_rlimit_nofile 512;
events {{ worker_connections 64; }}
http {{
  access_log off; client_body_temp_path {folder}/t1; proxy_temp_path {folder}/t2; fastcgi_temp_path {folder}/t3;
  uwsgi_temp_path {folder}/t4; scgi_temp_path {folder}/t5; large_client_header_buffers 4 64k;
{maps}
  server {{
    listen 127.0.0.1:{port};
{server}
    location / {{ default_type text/plain; return 200 "{here}"; }}
  }}
}}
"""


def map_of(rows: Sequence[OldAddress], choice: Redirects | None = None) -> RedirectMap:
    """The redirect map of the first site of these answers."""
    return RedirectMaps.learnt(lambda: iter(rows), choice).maps[0]


class Nginx:
    """Use as a context manager."""

    def __init__(self, folder: Path, *redirects: Path) -> None:
        """A server with the redirects in these folders, as they are written for it."""
        self.folder = folder / "nginx"
        self.folder.mkdir()
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.config = self.folder / "nginx.conf"
        self.config.write_text(
            _CONFIG.format(
                folder=self.folder,
                port=self.port,
                maps=_included(redirects, "newburrow-maps.conf", "include {};"),
                server=_included(redirects, "newburrow-server.conf", "include {};"),
                here=HERE,
            )
        )

    def check(self) -> str:
        """What nginx says of the configuration; empty where it is right."""
        done = subprocess.run(
            [NGINX, "-t", "-q", "-c", self.config], capture_output=True, text=True
        )
        return done.stderr if done.returncode else ""

    def __enter__(self) -> Nginx:
        self.process = subprocess.Popen([NGINX, "-c", self.config], stderr=subprocess.DEVNULL)
        self._wait()
        return self

    def _wait(self) -> None:
        for _ in range(100):
            try:
                with socket.create_connection(("127.0.0.1", self.port), 1):
                    return
            except OSError:
                time.sleep(0.05)
        self.process.kill()
        raise AssertionError((self.folder / "error.log").read_text())

    def __exit__(self, *_exc: object) -> None:
        self.process.terminate()
        self.process.wait(10)

    def ask(self, *targets: str, host: str = HOST) -> list[tuple[int, str]]:
        """Status and Location for each request target, over one connection."""
        answers = []
        connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=10)
        for target in targets:
            connection.request("GET", target, headers={"Host": host})
            answer = connection.getresponse()
            answer.read()
            answers.append((answer.status, answer.getheader("Location", "")))
            if answer.will_close:
                connection.close()
        connection.close()
        return answers


def _included(folders: tuple[Path, ...], name: str, line: str) -> str:
    return "\n".join(line.format(folder / name) for folder in folders)


_HTTPD = """
ServerRoot {folder}
ServerName localhost
PidFile {folder}/pid
ErrorLog {folder}/error.log
Listen 127.0.0.1:{port}
LimitRequestLine 70000
LimitRequestFields 50
LoadModule mpm_event_module {modules}/mod_mpm_event.so
LoadModule authz_core_module {modules}/mod_authz_core.so
LoadModule rewrite_module {modules}/mod_rewrite.so
LoadModule dir_module {modules}/mod_dir.so
LoadModule alias_module {modules}/mod_alias.so
DocumentRoot {folder}/pages
ErrorDocument 404 "none"
<Directory {folder}/pages>
  AllowOverride All
  Require all granted
</Directory>
<VirtualHost 127.0.0.1:{port}>
{include}
</VirtualHost>
"""


class Httpd(Nginx):
    """A real Apache httpd on a loopback port; `how` is `map` for its configuration, `folder` for a folder's own file.

    Pages that are there are not made: what is let pass is answered with 404.
    """

    def __init__(self, folder: Path, *redirects: Path, how: str = "map") -> None:
        super().__init__(folder, *redirects)
        pages = self.folder / "pages"
        pages.mkdir()
        include = ""
        if how == "map":
            for path in redirects:  # that of another site is in a folder of its name
                shutil.copytree(path, self.folder / path.name)
            shutil.copy(redirects[0] / "newburrow-map.txt", self.folder)
            include = _included(redirects, "newburrow-server.conf", "Include {}")
        else:
            rules = [(path / "htaccess").read_text() for path in redirects]
            (pages / ".htaccess").write_text("".join(rules))
        self.config.write_text(
            _HTTPD.format(folder=self.folder, port=self.port, modules=MODULES, include=include)
        )

    def check(self) -> str:
        done = subprocess.run([HTTPD, "-t", "-f", self.config], capture_output=True, text=True)
        return done.stderr if done.returncode else ""

    def __enter__(self) -> Httpd:
        self.process = subprocess.Popen(
            [HTTPD, "-X", "-f", self.config], stderr=subprocess.DEVNULL
        )
        self._wait()
        return self


_BALANCER = """
global
  maxconn 100
defaults
  mode http
  timeout connect 5s
  timeout client 5s
  timeout server 5s
frontend old
  bind 127.0.0.1:{port}
{lines}
  http-request return status 200 content-type text/plain string here
"""


class Balancer(Nginx):
    """A real HAProxy on a loopback port."""

    def __init__(self, folder: Path, *redirects: Path) -> None:
        super().__init__(folder, *redirects)
        lines = "".join(
            (path / "newburrow-frontend.cfg")
            .read_text()
            .replace(f"/etc/haproxy/{path.name}/", f"{path}/")
            .replace("/etc/haproxy/", f"{path}/")
            for path in redirects
        )
        self.config.write_text(_BALANCER.format(port=self.port, lines=lines))

    def check(self) -> str:
        done = subprocess.run(
            [HAPROXY, "-c", "-f", self.config], capture_output=True, text=True
        )
        return done.stderr if done.returncode else ""

    def __enter__(self) -> Balancer:
        self.process = subprocess.Popen([HAPROXY, "-f", self.config], stderr=subprocess.DEVNULL)
        self._wait()
        return self


_CADDY = """{{
  admin off
  auto_https off
}}
http://:{port} {{
  bind 127.0.0.1
{imports}
  respond "here" 200
}}
"""


class CaddyServer(Nginx):
    """A real Caddy on a loopback port."""

    def __init__(self, folder: Path, *redirects: Path) -> None:
        super().__init__(folder, *redirects)
        imports = _included(redirects, "newburrow.caddy", "  import {}")
        self.config.write_text(_CADDY.format(port=self.port, imports=imports))
        self.words = ["--config", str(self.config), "--adapter", "caddyfile"]

    def check(self) -> str:
        home = {"HOME": str(self.folder), "PATH": os.environ.get("PATH", "")}
        done = subprocess.run(
            [CADDY, "validate", *self.words], capture_output=True, text=True, env=home
        )
        return done.stderr if done.returncode else ""

    def __enter__(self) -> CaddyServer:
        home = {"HOME": str(self.folder), "PATH": os.environ.get("PATH", "")}
        self.process = subprocess.Popen(
            [CADDY, "run", *self.words], stderr=subprocess.DEVNULL, env=home
        )
        self._wait()
        return self


_LIGHTTPD = """
server.modules = ("mod_redirect", "mod_indexfile")
server.document-root = "{folder}/pages"
server.port = {port}
server.bind = "127.0.0.1"
server.errorlog = "{folder}/error.log"
server.max-request-field-size = 65000
index-file.names = ("index.html")
mimetype.assign = ("" => "text/html")
{includes}
"""


class LighttpdServer(Nginx):
    """A real lighttpd on a loopback port. Pages that are there are not made: what is let pass is answered with 404."""

    def __init__(self, folder: Path, *redirects: Path) -> None:
        super().__init__(folder, *redirects)
        (self.folder / "pages").mkdir()
        (self.folder / "pages/index.html").write_text("here")
        includes = _included(redirects, "newburrow-redirects.conf", 'include "{}"')
        self.config.write_text(
            _LIGHTTPD.format(folder=self.folder, port=self.port, includes=includes)
        )

    def check(self) -> str:
        done = subprocess.run(
            [LIGHTTPD, "-tt", "-f", self.config], capture_output=True, text=True
        )
        return done.stderr if done.returncode else ""

    def __enter__(self) -> LighttpdServer:
        self.process = subprocess.Popen(
            [LIGHTTPD, "-D", "-f", self.config], stderr=subprocess.DEVNULL
        )
        self._wait()
        return self

    def ask(self, *targets: str, host: str = HOST) -> list[tuple[int, str]]:
        """What is let pass counts as there; what is gone comes with an address that says nothing."""
        told = super().ask(*targets, host=host)
        return [
            (200 if status == 404 else status, "" if status == 410 else at)
            for status, at in told
        ]
