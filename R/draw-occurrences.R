# Draws of occurrences one by one: how many there are comes from the input's own uniform number in a run, each size from an address
# of its own.

draws_by_runs <- function(law, plan) {
  if (!is_occurrences(law)) return(FALSE)
  par <- parameters_of(law)
  switch(par$by, runs = TRUE, law = FALSE, plan$nsim <= 1e4 && mean(par$count) <= 20)
}

# A column of what an input takes of the occurrences of `count` runs after the first `first`; `u` are the uniform numbers of the
# input that has the address.
occurrences_column <- function(law, u, address, plan, first, count) {
  par <- parameters_of(law)
  number <- as.double(draw_from(par$count, u, plan$threads))
  recipe <- inversion_recipe(par$size)
  if (!is.null(recipe$labels)) recipe <- NULL
  take <- par[c("deductible", "limit", "take", "above")]
  x <- numeric(count)
  # of sizes that R finds the uniform numbers are kept meanwhile
  for (piece in pieces_of_sum(number, if (is.null(recipe)) 2^21 else 2^26)) {
    drawn <- cpp_draw_occurrences(address, plan$index %||% 0, recipe, take, first + piece[1], number[piece[1] + seq_len(piece[2])],
      plan$threads)
    if (length(drawn$runs)) {
      law <- ready_to_invert(par$size)
      cpp_add_sizes(drawn$x, drawn$runs, as.double(ask(law, "quantile", drawn$u, TRUE)), take)
    }
    x[piece[1] + seq_len(piece[2])] <- drawn$x
  }
  pmin(x, par$limit_in_all)
}

# Neighbouring runs whose numbers add up to about `most`: the places before the first, and how many.
pieces_of_sum <- function(number, most) {
  begins <- c(0, which(diff(floor(cumsum(number) / most)) > 0))
  Map(c, begins, diff(c(begins, length(number))))
}
