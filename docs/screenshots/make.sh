#!/usr/bin/env bash
# Makes the pictures in this folder anew from the demo data. Needs Debian's chromium, xvfb, xterm, imagemagick
# and the package installed in .venv (`make demo` does that).
set -euo pipefail
here=$(cd "$(dirname "$0")" && pwd)
top=$(cd "$here/../.." && pwd)
work=$(mktemp -d)
trap 'kill $screen 2>/dev/null || true; rm -rf "$work"' EXIT
cd "$work"
PATH="$top/.venv/bin:$PATH"
newburrow demo --out demo-move --quiet > /dev/null

export DISPLAY=:97 TERM=xterm-256color
Xvfb "$DISPLAY" -screen 0 1280x1900x24 > /dev/null 2>&1 &
screen=$!
sleep 1

# terminal NAME ROWS COMMAND...: what the command prints, as a terminal shows it
terminal() {
  local name=$1 rows=$2; shift 2
  printf 'clear; printf "$ %%s\\n" "%s"; %s; touch done; sleep 9\n' "$*" "$*" > run.sh
  rm -f done
  xterm -geometry "118x$rows+0+0" -fa 'DejaVu Sans Mono' -fs 11 -bg '#fbfaf6' -fg '#23221e' -b 14 -e bash run.sh &
  local window=$!
  for _ in $(seq 600); do [ -e done ] && break; sleep 0.1; done
  sleep 0.7
  import -window root -trim +repage "$here/$name.png"
  kill $window; wait $window 2>/dev/null || true
}

# page NAME ADDRESS: a page as a browser shows it. Sandboxed frames stay in the process of their page: a picture does
# not wait for those of another.
page() {
  chromium --headless --no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking \
    --disable-component-update --disable-sync --user-data-dir="$work/browser" --hide-scrollbars --virtual-time-budget=5000 \
    --disable-features=IsolateSandboxedIframes \
    --window-size=1280,${3:-800} --screenshot="$here/$1.png" "$2" > /dev/null 2>&1
}

terminal demo 14 newburrow demo --out demo-move
terminal demo-wiki 14 newburrow demo --site wiki --out demo-wiki
terminal demo-course 17 newburrow demo --site course --out demo-course
terminal survey 97 newburrow survey demo-move/mistlebank-export.zip
terminal show 32 newburrow show demo-move/mistlebank-export.zip forty-scions
python3 - <<'BREAK'
import zipfile
xml = zipfile.ZipFile("demo-move/mistlebank-export.zip").read("export/mistlebank.xml").decode()
xml = xml.replace("whip &amp; tongue", "whip & tongue", 1).replace("Tea from eleven", "Tea\x0b from 11 &nbsp;", 1)
xml = xml.replace("</rp:mail>", "", 1).replace("Two lanterns</title>", "Two < three lanterns</title>", 1)
open("broken.xml", "w").write("Notice: low memory\n" + xml[: xml.index("Cider tasting") + 2000])
BREAK
terminal mend 24 newburrow mend broken.xml -o mended.xml
terminal redirects 34 newburrow redirects demo-move/move --for nginx
newburrow draft demo-move/mistlebank-export.zip --to plainleaf --out other-move > other.txt
terminal advise 18 newburrow redirects other-move --advise
terminal move 28 newburrow move demo-move/move
cat > articles.csv <<'TABLE'
number,headline,made,writer,state,topics,text,mood
1,How to graft,2021-03-01,nell,live,"grafting,pears","<p>Cut and bind.</p>",fine
2,Pressing day,2021-10-02,hob,live,"cider,harvest","<p>Press the apples.</p>",wet
3,Owls are back,2022-05-01,nell,sketch,"owls","<p>In the old pear.</p>",fine
TABLE
terminal describe 34 newburrow dialects --draft-from articles.csv
terminal help 27 newburrow
terminal verify 22 newburrow verify demo-move/move
newburrow show demo-move/move how-to-graft --html story.html > story.txt
page story "file://$work/story.html" 1000
page report "file://$work/demo-move/move/report.html" 1000
sed "s|</style>|header,section:not(#walk){display:none}</style>|" demo-wiki/move/report.html > walk.html
page report-walk "file://$work/walk.html"
sed "s|</style>|header,section:not(#quizzes){display:none}</style>|; s|<details>|<details open>|" demo-course/move/report.html > quizzes.html
page report-quizzes "file://$work/quizzes.html"
# A section alone: what a reader sees on scrolling there.
for section in follow-ups samples ledger; do
  sed "s|</style>|header,section:not(#$section){display:none}</style>|" demo-move/move/report.html > "$section.html"
  page "report-$section" "file://$work/$section.html"
done
