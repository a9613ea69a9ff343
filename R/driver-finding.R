# What is to be said of an input in a table of drivers: findings, each a code with what its words need. A column of them
# is a list with, for each input, its findings by code; `findings` in the table are the codes, `remark` the words.

finding_words <- list(
  idle = function(none) "does not enter this output",
  stands_for = function(inputs) sprintf("stands for %s", and_list(inputs)),
  behind_another = function(inputs) {
    sprintf("%s %s behind another, too", and_list(inputs), if (length(inputs) > 1) "are" else "is")
  },
  shown_output = function(none) "also acts through an output that is shown",
  over_steps = function(none) "by its mean over the steps",
  still = function(none) "does not vary in these runs",
  still_output = function(none) "the output does not vary",
  few_runs = function(needed) if (is.na(needed)) "too few runs" else sprintf("too few runs: shares need %d", needed),
  few_for_bands = function(none) "too few runs for bands",
  few_to_test = function(none) "too few runs to tell from noise",
  not_told_apart = function(none) "cannot be told apart from other inputs",
  curved = function(share) {
    sprintf("curved: over bands it explains %s of the variance of ranks", format_share(share, 0))
  },
  interacts = function(none) "interacts: the output's spread goes with it, its mean does not",
  up_and_down = function(reach) {
    sprintf("goes up and down: %s from its lowest band to its highest", format_number(reach, 3))
  }
)

# Findings that a measure of straight effects does not show.
unseen_findings <- c("curved", "interacts", "up_and_down")

no_findings <- function(k) rep(list(list()), k)

# One finding where it holds; `fields` has one for all, or one for each.
findings_where <- function(where, code, fields = NA) {
  found <- no_findings(length(where))
  at <- which(where)
  found[at] <- lapply(rep_len(fields, length(where))[at], function(field) stats::setNames(list(field), code))
  found
}

join_findings <- function(a, b) {
  for (k in which(lengths(b) > 0)) a[[k]] <- c(a[[k]], b[[k]])
  unname(a)
}

# The first column where it says anything, else the second.
findings_or <- function(a, b) {
  empty <- lengths(a) == 0
  a[empty] <- b[empty]
  a
}

remarks_of <- function(findings) {
  vapply(findings, function(found) {
    if (length(found) == 0) return("")
    paste(unlist(Map(function(code, field) finding_words[[code]](field), names(found), found)), collapse = "; ")
  }, "")
}

codes_of <- function(findings) vapply(findings, function(found) paste(names(found), collapse = " "), "")

# Whether rows of a table of drivers have any of these findings.
has_finding <- function(table, codes) {
  vapply(strsplit(as.character(table$findings), " ", fixed = TRUE), function(found) any(found %in% codes), TRUE)
}
