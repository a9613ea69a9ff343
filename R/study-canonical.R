# The canonical text of a study: the same study gives the same text in any session, so that its hash tells whether two
# results come from the same study.

study_hash <- function(study) {
  left_out <- setdiff(names(study_parts()), names(hashed_parts()))
  study <- unclass(study)
  study$models[] <- lapply(study$models, function(model) model[!names(model) %in% c("here", "facts")])  # what this machine does with it, and what its file was like
  # which part was added first says nothing
  kept <- names(study)[!names(study) %in% left_out]
  text_hash(canonical_text(study[kept[order(kept, method = "radix")]]))
}
