#!/bin/sh
# Makes docs/screenshots/ again from the demo study: terminal windows, figures and the report.
# Needs Xvfb, xterm, ImageMagick and Chromium (Debian: xvfb xterm imagemagick chromium).
set -eu
shots=docs/screenshots
work=$(mktemp -d)
mkdir -p "$shots"

# terminal NAME COMMAND: what a terminal of 106 by 42 characters shows after the command
terminal() {
  printf '#!/bin/sh\nclear\n%s\ntouch "%s"\nsleep 4\n' "$2" "$work/$1.done" > "$work/$1.sh"
  xvfb-run -a -s "-screen 0 1280x800x24" sh -c "
    xterm -geometry 106x42+0+0 -fa 'DejaVu Sans Mono' -fs 11 -bg white -fg '#22313a' -b 12 -e sh '$work/$1.sh' &
    for i in \$(seq 100); do [ -e '$work/$1.done' ] && break; sleep 0.5; done
    sleep 1
    import -window root '$work/$1.png'
    wait"
  convert "$work/$1.png" -bordercolor black -trim +repage "$shots/$1.png"
}

cat > "$work/script.R" <<'R'
options(cli.num_colors = 256L)
suppressMessages(library(ensayo))
main <- read_study(system.file("studies", "gravity-main.yml", package = "ensayo"))
R
printf 'main\n' | cat "$work/script.R" - > "$work/study.R"
printf 'res <- simulate(main, nsim = 10000, seed = 11)\nres\n' | cat "$work/script.R" - > "$work/result.R"

terminal study "printf '> main\n'; Rscript '$work/study.R'"
terminal result "printf '> res <- simulate(main, nsim = 10000, seed = 11)\n> res\n'; Rscript '$work/result.R'"
cp inst/studies/gravity-main.yml "$work/"
terminal command-line "
  cd '$work'
  printf '\$ ensayo run gravity-main.yml --runs 5000 --seed 3\n'; ensayo run gravity-main.yml --runs 5000 --seed 3
  printf '\n\$ ensayo run gravity-main.yml\n'; ensayo run gravity-main.yml
  printf '\n\$ ensayo report gravity-main-result\n'; ensayo report gravity-main-result"

Rscript -e "
  library(ensayo)
  res <- simulate(read_study('inst/studies/gravity-main.yml'), nsim = 10000, seed = 11)
  save <- function(figure, name) ggplot2::ggsave(file.path('$shots', name), figure, width = 12.8, height = 8, dpi = 100)
  save(plot_distribution(res, 'pressure'), 'distribution.png')
  save(plot_tornado(res, 'pressure'), 'tornado.png')
  write_report('$work/gravity-main-result', '$work/report.html')"

page() {
  chromium --headless --no-sandbox --disable-gpu --no-first-run --disable-background-networking --disable-component-update \
    --disable-sync --hide-scrollbars --user-data-dir="$work/browser" --window-size="$2" --screenshot="$shots/$1.png" \
    "file://$work/report.html" > /dev/null 2>&1
}
page report 1280,1500
page report-phone 500,1000
rm -rf "$work"
