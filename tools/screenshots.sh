#!/bin/sh
# Makes docs/screenshots/ again from the demo study: terminal windows, figures and the report.
# Needs Xvfb, xterm, ImageMagick, Chromium, and for the copy of a workbook LibreOffice and poppler (Debian: xvfb xterm imagemagick
# chromium libreoffice-calc poppler-utils).
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

cp inst/studies/gravity-main.yml "$work/"
terminal command-line "
  cd '$work'
  printf '\$ ensayo run gravity-main.yml --runs 5000 --seed 3\n'; ensayo run gravity-main.yml --runs 5000 --seed 3
  printf '\n\$ ensayo run gravity-main.yml\n'; ensayo run gravity-main.yml
  printf '\n\$ ensayo report gravity-main-result\n'; ensayo report gravity-main-result"
terminal show "
  cd '$work'
  printf '\$ ensayo show gravity-main-result --outputs pressure --percentiles 1,10,50,90,99.99\n'
  ensayo show gravity-main-result --outputs pressure --percentiles 1,10,50,90,99.99"
# one picture of the command line and of a result shown
convert "$shots/command-line.png" "$shots/show.png" -append +repage "$shots/command-line.png"
rm "$shots/show.png"
terminal workbook "
  cd '$PWD/inst/studies'
  printf '\$ ensayo check tariff.xlsx\n'; ensayo check tariff.xlsx"
# under it the sheets of results and figures in the demo's copy, as a spreadsheet program prints them
(cd "$work" && ensayo demo tariff > /dev/null && soffice --headless --convert-to pdf --outdir . ensayo-demo-tariff/tariff-results.xlsx > /dev/null)
first=$(pdfinfo "$work/tariff-results.pdf" | awk '/^Pages/ {print $2 - 3}')
pdftoppm -r 200 -f "$first" -l "$((first + 1))" -png "$work/tariff-results.pdf" "$work/sheet"
for page in "$work"/sheet-*.png; do convert "$page" -trim +repage -bordercolor white -border 12 -resize 1280x -crop 1280x760+0+0 +repage "$page"; done
convert "$shots/workbook.png" -background white -gravity NorthWest -extent 1280x999 "$work"/sheet-*.png -append +repage -colors 128 "$shots/workbook.png"
terminal program "
  printf '\$ ensayo try network.yml market=8 --run-programs\n'
  ensayo try '$PWD/inst/studies/network.yml' market=8 --run-programs"
terminal failures "
  cd '$work'
  printf '\$ ensayo run network.yml --runs 2000 --out network-result --workers 2 --run-programs\n'
  ensayo run '$PWD/inst/studies/network.yml' --runs 2000 --out network-result --workers 2 --run-programs"

Rscript -e "
  library(ensayo)
  res <- simulate(read_study('inst/studies/gravity-main.yml'), nsim = 10000, seed = 11)
  save <- function(figure, name) ggplot2::ggsave(file.path('$shots', name), figure, width = 12.8, height = 8, dpi = 100)
  save(plot_distribution(res, 'pressure'), 'distribution.png')
  save(plot_tornado(res, 'pressure'), 'tornado.png')
  tank <- read_study('inst/studies/tank.yml')
  summer <- simulate(tank, nsim = 2000, seed = 11)
  kept <- c(never_empty = 0.98)
  rules <- sweep_input(tank, call_at = seq(30, 100, 10), lot = seq(40, 100, 20), .nsim = 1000, .seed = 11, .outputs = 'cost')
  part <- function(figure, name) ggplot2::ggsave(file.path('$work', name), figure, width = 10, height = 6.25, dpi = 100)
  part(plot_series(summer, level, c(5, 95), paths = pick_paths(summer, level, by = 'lowest'), at = 'last'), 'step1.png')
  part(plot_chance_by_step(summer, level < 50), 'step2.png')
  part(plot_drivers_by_step(summer, level), 'step3.png')
  part(plot_sweep(rules, 'cost', better = 'low', where = kept), 'step4.png')
  variants <- alternatives(study_of(res), lined = list(friction = law_lognormal(mean = 0.016, sd = 0.001)),
    wider = list(diameter = law_triangular(0.256, 0.260, 0.262)))
  both <- compare_results(simulate(variants, nsim = 10000, seed = 11))
  save(plot_comparison(both, 'pressure', 'cumulative', target = 38), 'comparison.png')
  save(plot_law(pert = law_pert(28, 34, 48), triangular = law_triangular(28, 34, 48),
    normal = law_around(34, '20 %', shape = 'normal', k = 2), unit = 'L/s'), 'laws.png')
  renewal <- read_study('inst/studies/renewal.yml')
  then <- simulate(renewal, nsim = 10000, seed = 11)
  now <- renewal |> replace_costs(read_costs('inst/studies/renewal/status.csv')) |> close_events(rock = 96, cables = 0, archaeology = 0)
  bridge <- bridge_results(then, simulate(now, nsim = 10000, seed = 11), total)
  cost_figures <- list(plot_split(then), plot_gains(then), plot_allotments(then, most = 15), plot_bridge(bridge, most = 8))
  for (i in 1:4) ggplot2::ggsave(sprintf('$work/cost%d.png', i), cost_figures[[i]], width = 9, height = 5.8, dpi = 100)
  works <- simulate(read_study('inst/studies/works.yml'), nsim = 10000, seed = 11)
  schedule_figures <- list(plot_schedule(works, most = 25), plot_distribution(works, project_finish), plot_schedule_gains(works, most = 15),
    plot_slip(works, most = 25))
  for (i in 1:4) ggplot2::ggsave(sprintf('$work/schedule%d.png', i), schedule_figures[[i]], width = 9.6, height = 6, dpi = 100)
  probed <- study_of(works) |> close_events(rock = 0) |>
    replace_tasks(order_pipes = task(law_pert(40, 55, 100), after = 'design', calendar = 'every day', group = 'Supply',
      label = 'Pipes ordered and delivered'))
  money_figures <- list(plot_cash_flow(works), plot_joint(works), plot_critical_paths(works),
    plot_bridge(bridge_results(works, simulate(probed, nsim = 10000, seed = 11), project_finish)))
  for (i in 1:4) ggplot2::ggsave(sprintf('$work/money%d.png', i), money_figures[[i]], width = 9.6, height = 6, dpi = 100)
  write_report('$work/gravity-main-result', '$work/report.html')"

montage "$work"/step[1-4].png -tile 2x2 -geometry +6+6 "$shots/steps.png"
montage "$work"/schedule[1-4].png -tile 2x2 -geometry +6+6 "$shots/schedule.png"
montage "$work"/money[1-4].png -tile 2x2 -geometry +6+6 "$shots/money.png"
montage "$work"/cost[1-4].png -tile 2x2 -geometry +6+6 "$shots/costs.png"

# page NAME SIZE FILE: what a browser shows
page() {
  chromium --headless --no-sandbox --disable-gpu --no-first-run --disable-background-networking --disable-component-update \
    --disable-sync --hide-scrollbars --user-data-dir="$work/browser" --window-size="$2" --screenshot="$shots/$1.png" \
    "file://$3" > /dev/null 2>&1
}
# the report with a target that was typed
sed 's/<meta http-equiv="Content-Security-Policy"[^>]*>//; s#</body>#<script>const box = document.querySelector("section[data-output=pressure] input"); box.value = "36.5"; box.dispatchEvent(new Event("input"));</script></body>#' \
  "$work/report.html" > "$work/asked.html"
page report 1280,1560 "$work/asked.html"
# pages of the site
make site > /dev/null
page guide 1280,1400 "$PWD/docs/site/articles/tolerances.html"
page gallery 1280,1400 "$PWD/docs/site/articles/gallery.html"
# the explorer, which is looked at in a window: it talks to R
sed 's/mean: 0.021/mean: 0.018/' "$work/gravity-main.yml" > "$work/lined.yml"
ensayo run "$work/lined.yml" > /dev/null 2>&1
(cd "$work" && exec ensayo explore gravity-main-result lined-result --port 4568 --no-browser > address.txt 2>&1) &
explorer=$!
for i in $(seq 100); do grep -q 'http://' "$work/address.txt" 2> /dev/null && break; sleep 0.2; done
address=$(grep -o 'http://[^ ]*' "$work/address.txt")
xvfb-run -a -s "-screen 0 1280x1000x24" sh -c "
  chromium --no-sandbox --disable-gpu --no-first-run --user-data-dir='$work/window' --window-size=1280,1000 --window-position=0,0 --kiosk '$address' > /dev/null 2>&1 &
  sleep 12
  import -window root '$shots/explorer.png'
  kill \$!"
kill $explorer
# the page of a simulation that is under way
(cd "$work" && ensayo run "$OLDPWD/inst/studies/network.yml" --out progress --runs 2000 --workers 2 --run-programs --watch pressure --page) \
  > /dev/null 2>&1 &
for i in $(seq 200); do
  grep -q '[0-9][0-9] a second' "$work/progress/progress.html" 2> /dev/null && break
  sleep 0.2
done
sleep 8
mkdir "$work/seen" && cp "$work/progress/progress.html" "$work/progress/progress.png" "$work/seen/"
wait
page progress 1280,1120 "$work/seen/progress.html"
rm -rf "$work"
