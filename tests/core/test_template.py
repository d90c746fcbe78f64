"""Templates that users write: what they give, and that none takes memory or time without end."""

import unittest

from newburrow.core.template import TemplateFailed, compiled, names_in, rendered

HOSTILE = (
    "{% for i in range(99999) %}{% for j in range(99999) %}{% endfor %}{% endfor %}",
    "{{ 'a' * 10**10 }}", "{{ 10**10 * 'a' }}", "{{ '%0999999999d' % 1 }}", "{{ 'a'.ljust(10**9) }}", "{{ 10**10**8 }}", "{{ [1] * 10**9 }}",
    "{{ 1/0 }}", "{{ x.y.z }}", "{% set a = 'a' * 9999 %}{% for i in range(99999) %}{{ a }}{% endfor %}", "{{ ''.__class__.__mro__ }}",
    "{% macro m() %}{{ m() }}{% endmacro %}{{ m() }}", "{{ '{:999999999}'.format(1) }}", "{{ range(10**9) }}",
    "{% set ns = namespace(a='xxxxxxxxxx') %}{% for i in range(60) %}{% set ns.a = ns.a ~ ns.a %}{% endfor %}",
    "{{ 'a' | replace('a', 'b' * 900000) | replace('b', 'c' * 900000) }}", "{{ range(99999) | list | join('x' * 99999) }}",
)  # fmt: skip


class Templates(unittest.TestCase):
    def test_what_they_give(self) -> None:
        self.assertEqual(rendered("{{ a }}-{{ b }}", {"a": "<x>"}), "&lt;x&gt;-")
        self.assertEqual(rendered("{{ a * 3 }} {{ 2 ** 3 }}", {"a": "x"}, False), "xxx 8")
        self.assertEqual(names_in("{{ a.b }}{% for c in d %}{{ c }}{% endfor %}"), {"a", "d"})

    def test_what_is_no_template(self) -> None:
        for text in (
            "{{",
            "{% for %}",
            "{{ a | center(9) }}",
            "{{" + "(" * 5000 + ")" * 5000 + "}}",
        ):
            self.assertRaises(ValueError, compiled, text)

    def test_none_takes_time_or_memory_without_end(self) -> None:
        for text in HOSTILE:
            with self.subTest(text), self.assertRaises(TemplateFailed):
                rendered(text, {})
