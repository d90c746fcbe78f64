"""Redirects in the configurations of servers: each form, and what is only half understood is not used."""

import io
import unittest

from newburrow.core.problem import Problem
from newburrow.redirects.known import apache, nginx
from newburrow.redirects.known.found import KnownUrl, OldRule

# Lines of a configuration -> addresses with targets ("" for gone), rules, and how many are named as not used.
APACHE = (
    ("Redirect 301 /a /b", {"/a": "/b"}, {"^/a/(.+)$": "/b/$1"}, 0),
    ("Redirect /a https://new.example/b", {"/a": "https://new.example/b"}, {"^/a/(.+)$": "https://new.example/b/$1"}, 0),
    ("redirect seeother \"/a b\" /c", {"/a b": "/c"}, {"^/a\\ b/(.+)$": "/c/$1"}, 0),
    ("RedirectTemp /a /b", {"/a": "/b"}, {"^/a/(.+)$": "/b/$1"}, 0),
    ("Redirect gone /a", {"/a": ""}, {}, 0),
    ("Redirect 410 /a\nRedirect 404 /b", {"/a": ""}, {}, 0),
    ("RedirectMatch 308 ^/a\\.html$ /b", {"/a.html": "/b"}, {}, 0),
    ("RedirectMatch gone ^/old/.*$", {}, {}, 1),
    ("RedirectMatch permanent ^/(\\d+)/x$ /y/$1", {}, {"^/(\\d+)/x$": "/y/$1"}, 1),
    ("RewriteRule ^a$ b [R=301,L]", {"/a": "/b"}, {}, 0),
    ("RewriteBase /blog/\nRewriteRule ^/?a$ b [redirect=permanent]", {}, {"^/?a$": "/blog/b"}, 1),
    ("RewriteRule ^a$ https://new.example/ [L]", {"/a": "https://new.example/"}, {}, 0),
    ("RewriteRule ^a$ - [G]\nRewriteRule ^b$ - [F]", {"/a": ""}, {}, 0),
    ("RewriteRule ^(.*)$ /index.php?q=$1 [L,QSA]", {}, {}, 0),
    ("RewriteRule ^a/(.*)$ /b/$1 [R=301,NC]", {}, {"(?i)^a/(.*)$": "/b/$1"}, 1),
    ("RewriteCond %{QUERY_STRING} ^id=3$\nRewriteRule ^x\\.php$ /y? [R=301]", {"/x.php?id=3": "/y"}, {}, 0),
    ("RewriteCond %{QUERY_STRING} (^|&)id=3(&|$) [NC]\nRewriteRule ^x$ /y [R,QSD]", {"/x?id=3": "/y"}, {}, 0),
    ("RewriteCond %{QUERY_STRING} ^id=(\\d+)$\nRewriteRule ^x$ /y/%1 [R=301]", {}, {}, 1),
    ("RewriteCond %{HTTP_HOST} ^(www\\.)?old\\.example$ [NC]\nRewriteRule ^a$ /b [R=301]", {"https://old.example/a": "/b"}, {}, 0),
    ("RewriteCond %{HTTP_HOST} ^a [OR]\nRewriteCond %{HTTP_HOST} ^b\nRewriteRule ^a$ /b [R=301]", {}, {}, 1),
    ("RewriteCond %{REQUEST_FILENAME} !-f\nRewriteRule ^a$ /b [R=301]\nRewriteRule ^c$ /d [R=301]", {"/c": "/d"}, {}, 1),
    ("RewriteRule ^a$ https://%{HTTP_HOST}/b [R=301]", {}, {}, 1),
    ("RewriteRule !^a$ /b [R=301]", {}, {}, 1),
    ("RewriteRule ^a$ /b [R=301,S=2]", {}, {}, 1),
    ("<If \"true\">\nRedirect 301 /a /b\n</If>\nRedirect 410 /c", {"/c": ""}, {}, 1),
    ("<VirtualHost *:80>\nServerName www.old.example:80\nRedirect 410 /a\n</VirtualHost>", {"https://old.example/a": ""}, {}, 0),
    ("Redirect 301 /a \\\n  /b", {"/a": "/b"}, {"^/a/(.+)$": "/b/$1"}, 0),
    ("Redirect 301 /a /b /c", {}, {}, 1),
    ("Redirect 301 \"/a /b", {}, {}, 1),
)  # fmt: skip
NGINX = (
    ("location = /a { return 301 /b; }", {"/a": "/b"}, {}, 0),
    ("location = \"/a b\" { return 302 'https://new.example/b'; }", {"/a b": "https://new.example/b"}, {}, 0),
    ("location = /a { return 410; }", {"/a": ""}, {}, 0),
    ("location = /a { return https://new.example/; }", {"/a": "https://new.example/"}, {}, 0),
    ("location /a { return 307 /b; }", {}, {"^/a": "/b"}, 1),
    ("location ^~ /a/ { return 301 https://new.example$request_uri; }", {}, {"^(/a/.*)$": "https://new.example$1"}, 1),
    ("location ~ ^/a/(\\d{2})$ { return 301 /b/$1; }", {}, {"^/a/(\\d{2})$": "/b/$1"}, 1),
    ("location ~* ^/a$ { return 301 /b; }", {}, {"(?i)^/a$": "/b"}, 1),
    ("server { server_name www.old.example; location = /a { return 301 $scheme://$host/b; } }", {"https://old.example/a": "/b"}, {}, 0),
    ("server { return 301 https://new.example$request_uri; }", {}, {"^(/.*)$": "https://new.example$1"}, 1),
    ("rewrite ^/a$ /b permanent; rewrite ^/c$ /d last; rewrite ^/e$ /f redirect;", {"/a": "/b", "/e": "/f"}, {}, 0),
    ("rewrite ^/a/(.*)$ /b/$1? permanent;", {}, {"^/a/(.*)$": "/b/$1"}, 1),
    ("location = /x { if ($arg_id = 3) { return 301 /y; } if ($args ~ ^id=4$) { return 410; } }", {"/x?id=3": "/y", "/x?id=4": ""}, {}, 0),
    ("location = /x { if ($request_method = POST) { return 301 /y; } }", {}, {}, 1),
    ("location = /x { return 301 /y/$cookie_a; }", {}, {}, 1),
    ("location = /x { return 404; } location = /z { return 200 'hello { there'; }", {}, {}, 0),
    ("map $uri $new { default ''; /a /b; \"/c d\" https://new.example/; ~^/e/(.*)$ /f/$1; }", {"/a": "/b", "/c d": "https://new.example/"}, {"^/e/(.*)$": "/f/$1"}, 1),
    ("map $uri $new { include old.map; }", {}, {}, 1),
    ("map $http_host $x { /a /b; }", {}, {}, 0),
    ("# location = /a { return 301 /b; }", {}, {}, 0),
    ("location = /a { return 301 /b;", {"/a": "/b"}, {}, 0),
    ("}}} ;; { \" location = /a", {}, {}, 0),
)  # fmt: skip


class Each(unittest.TestCase):
    def check(self, reader: object, text: str, urls: dict, rules: dict, unused: int) -> None:  # type: ignore[type-arg]
        found = list(reader.read(io.StringIO(text), "f"))  # type: ignore[attr-defined]
        known = {one.address: one.target for one in found if isinstance(one, KnownUrl)}
        self.assertEqual(known, urls)
        for one in found:
            if isinstance(one, KnownUrl):
                self.assertEqual(one.is_gone, not one.target)
        self.assertEqual({one.old: one.new for one in found if isinstance(one, OldRule)}, rules)
        problems = [one for one in found if isinstance(one, Problem)]
        self.assertEqual(len(problems), unused, [one.message for one in problems])

    def test_apache(self) -> None:
        for text, *wanted in APACHE:
            with self.subTest(text):
                self.check(apache, text, *wanted)  # type: ignore[arg-type]

    def test_nginx(self) -> None:
        for text, *wanted in NGINX:
            with self.subTest(text):
                self.check(nginx, text, *wanted)  # type: ignore[arg-type]
