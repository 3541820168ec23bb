#!/usr/bin/env bash
# Makes docs/screenshots/ anew from the demo data: each main command in a terminal window of about 1280x800.
# Needs Xvfb, xterm, xdotool and ImageMagick (Debian: xvfb xterm xdotool imagemagick fonts-dejavu-core).
set -euo pipefail
cd "$(dirname "$0")/.."

for tool in Xvfb xterm xdotool import; do
  if ! command -v "$tool" >/dev/null; then
    echo "shots: '$tool' is missing; install it with: apt-get install xvfb xterm xdotool imagemagick fonts-dejavu-core" >&2
    exit 2
  fi
done

here=$PWD
work=$(mktemp -d)
display=:$((90 + RANDOM % 900))
# -noreset: a server that starts anew when its last window closes refuses the next one meanwhile.
Xvfb "$display" -screen 0 1280x800x24 -noreset >/dev/null 2>&1 &
server=$!
trap 'kill "$server" 2>/dev/null || true; rm -rf "$work"' EXIT
export DISPLAY=$display PATH="$here/.venv/bin:$PATH"
sleep 1

# shot NAME COMMAND: runs the command in a fresh terminal and keeps a picture of what it leaves on the screen.
shot() {
  rm -f "$work/ready"
  cat >"$work/show.sh" <<SHOW
cd "$work/yard"
clear
printf '\033[1m\$ %s\033[0m\n' "$2"
$2
touch "$work/ready"
sleep 60
SHOW
  xterm -fa 'DejaVu Sans Mono' -fs 11 -geometry 140x44+0+0 -bg '#fbfbf8' -fg '#20242a' -b 12 \
    -xrm 'XTerm*color8: #6b7280' -xrm 'XTerm*color2: #1a7f37' -xrm 'XTerm*color6: #0b6e8a' -xrm 'XTerm*color14: #0b6e8a' -xrm 'XTerm*color1: #b42318' \
    -e bash "$work/show.sh" &
  local terminal=$!
  for _ in $(seq 300); do [ -e "$work/ready" ] && break; sleep 0.1; done
  if [ ! -e "$work/ready" ]; then
    echo "shots: '$2' did not come to its end in a terminal within 30 seconds; $1.png is as it was" >&2
    exit 1
  fi
  sleep 0.7
  import -window root -strip "$here/docs/screenshots/$1.png"
  kill "$terminal" 2>/dev/null || true
  wait "$terminal" 2>/dev/null || true
}

hemplit demo "$work/yard" >/dev/null 2>&1
rm -f "$work"/yard/boatyard.*
mkdir -p docs/screenshots
shot look "hemplit look jobs.csv"
shot folder "hemplit look haul-outs"
shot together "hemplit look jobs.csv parts-used.csv crew-roster.xlsx haul-outs | head -36"
shot dependencies "hemplit dependencies jobs.csv --depth 1"
shot draft "hemplit draft jobs.csv --out boatyard.design.toml"
shot why "hemplit why boatyard.design.toml"
shot design "head -40 boatyard.design.toml"
shot load "hemplit load boatyard.design.toml --into boatyard.sqlite"
shot engine "hemplit load parts-used.csv --into normal/ --engine duckdb && hemplit look normal/jobs.parquet | head -20"
shot prove "hemplit prove boatyard.design.toml --into boatyard.sqlite"
shot held "hemplit look boatyard.sqlite | head -42"
shot tally "hemplit tally boatyard.design.toml --into boatyard.sqlite --of 'Labour Cost, number of jobs' --by 'Owner Town' && hemplit tally boatyard.design.toml --into boatyard.sqlite --of 'Labour Cost' --by Crew"
(cd "$work/yard" && hemplit tally boatyard.design.toml --into boatyard.sqlite --of "Labour Cost" --by "month of Opened" --across Status --out "$here/docs/screenshots/chart.png") >/dev/null 2>&1
# The diagram, and the page where Chromium is there to show it (Debian: chromium).
(cd "$work/yard" && hemplit draw boatyard.design.toml --out diagram.png && hemplit why boatyard.design.toml --page page.html) 2>/dev/null
convert "$work/yard/diagram.png" -resize 1280x -strip "$here/docs/screenshots/diagram.png"
if command -v chromium >/dev/null; then
  chromium --headless=new --no-sandbox --disable-gpu --hide-scrollbars --window-size=1280,800 \
    --screenshot="$work/page.png" "file://$work/yard/page.html" >/dev/null 2>&1
  convert "$work/page.png" -strip "$here/docs/screenshots/page.png"
fi
# A table of the workbook, where LibreOffice is there to show it (Debian: libreoffice-calc).
if command -v soffice >/dev/null; then
  (cd "$work/yard" && hemplit load boatyard.design.toml --into yard.xlsx >/dev/null 2>&1)
  HOME=$work soffice --norestore --nologo --view "$work/yard/yard.xlsx" >/dev/null 2>&1 &
  for _ in $(seq 60); do xdotool search --name yard.xlsx >/dev/null 2>&1 && break; sleep 0.5; done
  sleep 5
  window=$(xdotool search --name yard.xlsx | tail -1)
  xdotool windowsize "$window" 1280 800 windowmove "$window" 0 0
  sleep 2
  xdotool mousemove 620 767 click 1
  sleep 2
  import -window root -strip "$here/docs/screenshots/workbook.png"
  pkill -f "$work/yard/yard.xlsx" || true
fi
# Next month's file: a boat in another berth, a status that is new, and a job that is there already.
{ sed -n 1p "$work/yard/jobs.csv"; sed -n '2,12p' "$work/yard/jobs.csv" | sed -e 's/^40/50/' -e '4s/,done,\|,invoiced,\|,open,\|,booked,/,on hold,/'; sed -n 30p "$work/yard/jobs.csv"; } \
  >"$work/yard/november.csv"
shot topup "hemplit topup boatyard.design.toml november.csv --into boatyard.sqlite"
# A table that was renamed, and a column that has come since then.
sed -e 's/tables.works/tables.tasks/' -e 's/to = "works"/to = "tasks"/' "$work/yard/boatyard.design.toml" >"$work/yard/edited.design.toml"
sed -i -e 's/\r$//' -e '1s/$/,Moisture %/' -e '2,$s/$/,"12,5"/' "$work/yard/jobs.csv"
shot redraft "hemplit draft jobs.csv --out edited.design.toml --update"
shot demo "hemplit demo ../again"
echo "docs/screenshots/: $(ls docs/screenshots | tr '\n' ' ')"
