# Rare chances, in lines for the terminal.

rare_lines <- function(found, study) {
  number <- function(x) formatC(x, format = "e", digits = 1)
  met <- found$met > 0
  words <- c(
    if (met) sprintf("%s happens with a chance of %s (95 %%: %s to %s), about once in %s.", found$condition, number(found$chance), number(found$low),
      number(found$high), count_text(signif(1 / found$chance, 2)))
    else sprintf("%s came about in none of %s; a chance above %s is not likely, if the places that were looked at are all there are.", found$condition,
      count_of(found$runs, "run"), number(found$high)),
    if (met) sprintf("%s of the model; %s met it, worth %s equally likely ones. It comes true in %s, the nearest %s standard deviations off.",
      count_of(found$runs, "run"), format_given(found$met), format_decimals(found$effective, 0), count_of(found$places, "place"),
      format_number(found$distance, 3)),
    if (found$failed > 0) sprintf("%s failed, and count as not having met it.", count_of(found$failed, "run")),
    rare_finding_words(found))
  c(title_line("Rare chance", study$title), wrapped_lines(paste0("  ", words)))
}

rare_finding_words <- function(found) {
  codes <- strsplit(found$findings, " ")[[1]]
  said <- c(never_met = "Do not trust it: no run met the condition.", few_effective = "Do not trust it yet: too few runs carry it. Allow more runs.",
    one_dominates = "Do not trust it: a single run is more than a tenth of it. Allow more runs.",
    missed_place = "Do not trust it: runs far from the places that were found meet the condition, too. Allow more runs.",
    not_rare = "It is not rare: plain runs tell it as well.")
  unname(said[intersect(names(said), codes)])
}
