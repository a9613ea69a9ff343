# One look for every figure. The colours are told apart by their lightness too, so that they work in grey.

palette_ensayo <- list(
  ink = "#22313a", quiet = "#6b7c86", grid = "#e3e8ea", fill = "#a9cbd3", shade = "#5e97a8", noise = "#b9c3c8",
  line = "#0d5c75", accent = "#c2571a", raises = "#0d5c75", lowers = "#e0a458"
)

theme_ensayo <- function(base_size = 13) {
  ink <- palette_ensayo$ink
  ggplot2::theme_minimal(base_size = base_size) +
    ggplot2::theme(
      text = ggplot2::element_text(colour = ink),
      axis.text = ggplot2::element_text(colour = ink, size = ggplot2::rel(0.95)),
      axis.title.x = ggplot2::element_text(margin = ggplot2::margin(t = 8)),
      axis.title.y = ggplot2::element_text(margin = ggplot2::margin(r = 8)),
      axis.title.y.right = ggplot2::element_text(margin = ggplot2::margin(l = 8)),
      plot.title = ggplot2::element_text(face = "bold", size = ggplot2::rel(1.25)),
      plot.subtitle = ggplot2::element_text(colour = palette_ensayo$quiet, margin = ggplot2::margin(b = 10)),
      plot.caption = ggplot2::element_text(colour = palette_ensayo$quiet, hjust = 0),
      plot.title.position = "plot", plot.caption.position = "plot",
      panel.grid.minor = ggplot2::element_blank(),
      panel.grid.major = ggplot2::element_line(colour = palette_ensayo$grid),
      plot.background = ggplot2::element_rect(fill = "white", colour = NA),
      plot.margin = ggplot2::margin(14, 18, 12, 14),
      legend.position = "top", legend.justification = "left"
    )
}

# Titles break into lines rather than run out of a small figure; a number and its unit stay together.
wrapped <- function(title, width = 62) {
  gsub("\u00a0", " ", paste(strwrap(gsub("(?<=[0-9]) (?=[^ ])", "\u00a0", title, perl = TRUE), width), collapse = "\n"))
}

# `over` where an input with steps has one value a run: its mean over them.
axis_title <- function(study, name, over = FALSE) {
  label <- quantity_label(study, name)
  if (over && name %in% stepped_names(study)) label <- paste0(label, ", mean over the steps")
  with_unit(label, unit_in_brackets(quantity_unit(study, name)))
}

unit_in_brackets <- function(unit) if (!is.null(unit) && nzchar(unit)) sprintf("[%s]", unit)

# "10 000 runs, Latin hypercube, seed 11": the small print under every figure.
run_caption <- function(result) {
  p <- result$provenance
  paste(c(partial_words(result), if (is.null(p$so_far)) sprintf("%s: %s, %s, seed %s", result$study$title,
    count_of(p$nsim, "run"), design_words[[p$design]], format_given(p$seed))), collapse = "\n")
}
