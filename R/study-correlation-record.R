# Correlations as a study file has them.

# Pairs, blocks of several inputs with one correlation, or a whole matrix in a file.
file_correlations <- function(study, records, folder) {
  if (is.list(records) && !is.null(names(records))) records <- list(records)
  for (record in as.list(records)) {
    place <- "A correlation"
    if (!is.list(record)) stop_ensayo("file", "A correlation must have the keys `between` and `rank`.",
      sprintf("It is %s.", shown_value(record)), "Write `- {between: [a, b], rank: 0.4}`.")
    check_keys(record, c("between", "rank", "score", "given", "file", "kind"), place)
    if (!is.null(record$file)) {
      matrix <- read_correlation(beside(record$file, folder))
      kind <- in_place(place,
        check_choice(read_text(record$kind %||% "rank", "A correlation's `kind`"), correlation_kinds, "kind"))
      study <- in_place(sprintf("The correlations in %s", record$file), add_correlation(study, matrix, kind = kind))
      next
    }
    if (length(record$between) == 0) {
      stop_ensayo("file", "A correlation must be `between` two inputs or more.", "It names none.")
    }
    if (is.null(record$rank) && is.null(record$score)) stop_ensayo("file", "A correlation must give its `rank`, or its `score`.", "Both are missing.")
    kind <- if (is.null(record$score)) "rank" else "score"
    r <- read_number(record[[kind]], sprintf("A correlation's %s", quoted(kind)))
    set <- with_members(normal_name(unlist(record$between)), study)
    if (length(set) < 2) stop_ensayo("file", "A correlation must be `between` two inputs or more.",
      sprintf("%s holds one.", quoted(set[1])))
    # before anything is made of so many pairs
    for (name in unique(set)) in_place(sprintf("Correlation of %s", quoted(name)), check_can_correlate(study, name))
    if (anyDuplicated(set)) stop_ensayo("file", "A correlation must be `between` different inputs.",
      sprintf("%s stands twice.", quoted(set[anyDuplicated(set)])))
    for (pair in asplit(utils::combn(set, 2), 2)) {
      study <- in_place(sprintf("Correlation of %s and %s", quoted(pair[1]), quoted(pair[2])),
        add_pair(study, pair[[1]], pair[[2]], rank_of(r, kind), replace = FALSE))
    }
    if (!is.null(record$given)) {
      study$correlations$given[nrow(study$correlations)] <- read_number(record$given, "A correlation's `given`")
    }
  }
  study
}

# Groups and families stand for their inputs.
with_members <- function(names, study) {
  members <- family_members(study, names(study$inputs))
  unlist(lapply(names, function(name) if (name %in% names(study$inputs)) name else members[[name]] %||% name))
}

part_correlations <- list(
  title = "Rank correlations",
  renamed = function(study, old, new) {
    for (end in c("a", "b")) study$correlations[[end]][study$correlations[[end]] == old] <- new
    study
  },
  removed = function(study, name) {
    pairs <- study$correlations
    study$correlations <- pairs[pairs$a != name & pairs$b != name, , drop = FALSE]
    study
  },
  record = function(study) {
    own <- own_correlations(study)
    lapply(seq_len(nrow(own)), function(i) {
      pair <- own[i, ]
      c(list(between = c(pair$a, pair$b), rank = pair$r), if (pair$given != pair$r) list(given = pair$given))
    })
  },
  read = function(study, record, file) file_correlations(study, record, file$folder),
  reviewed = function(study, asked) review_correlations(study),
  table = function(study) own_correlations(study)
)
