# What a cost tree is calculated with: of an item `costs[1.2]` the inputs `costs[1.2 quantity]`, `costs[1.2 price]`, `costs[1.2 amount]`,
# `costs[1.2 percent]` and `costs[1.2 range]`, where these are laws; an output for each code, and the total.

cost_name <- function(tree, code) sprintf("%s[%s]", tree$name, code)

with_costs <- function(study, call = rlang::caller_env()) {
  inputs <- do.call(c, c(list(list()), unname(lapply(study$costs, cost_inputs))))
  old <- names(Filter(function(input) !is.null(input$cost), study$inputs))
  study$inputs[setdiff(old, names(inputs))] <- NULL
  study$inputs[names(inputs)] <- with_streams(inputs, study$inputs)
  study <- bound_inputs(study, call)
  study$correlations <- own_correlations(study, of_events = TRUE)
  gone <- setdiff(c(study$correlations$a, study$correlations$b), names(study$inputs))
  study$correlations <- study$correlations[!study$correlations$a %in% gone & !study$correlations$b %in% gone, , drop = FALSE]
  rownames(study$correlations) <- NULL
  for (tree in study$costs) study <- with_cost_groups(study, tree, call)
  for (set in correlated_sets(study)) check_correlation_set(study, set, call)
  outputs <- do.call(c, c(list(list()), unname(lapply(study$costs, cost_outputs, call))))
  old <- names(Filter(function(output) !is.null(output$cost), study$outputs))
  study$outputs[setdiff(old, names(outputs))] <- NULL
  v <- quantity_vocabulary(study, unique(c(quantity_names(study), names(outputs))))
  for (name in names(outputs)) {
    output <- outputs[[name]]
    output$formula <- read_formula(rlang::new_quosure(output$formula, baseenv()), v, sprintf("Cost %s", quoted(name)))
    study$outputs[[name]] <- output
  }
  output_order(study$outputs, call)
  # impacts on a total are added to it anew
  if (length(study$events)) with_events(study, call = call) else study
}

# A factor for what is in another currency or of another price level.
factor_name <- function(tree, key) sprintf("%s[%s]", tree$name, key)

cost_inputs <- function(tree) {
  made <- list()
  add <- function(name, law, label = NULL, group = NULL) {
    if (!is_law(law)) return()
    input <- input(law, label = label)
    input[c("cost", "aside")] <- list(tree$name, TRUE)
    # not a group of inputs, which formulas sum: quantities and prices do not add up
    input$item_group <- group
    made[[name]] <<- input
  }
  for (item in tree$items) {
    for (key in c("quantity", "price", "amount", "percent", "factor")) {
      part <- if (key == "factor") "range" else key
      add(cost_name(tree, paste(item$code, part)), item[[key]], item$label, item$group)
    }
  }
  for (key in names(tree$rates)) add(factor_name(tree, key), tree$rates[[key]])
  for (key in names(tree$indices)) add(factor_name(tree, key), tree$indices[[key]])
  made
}

cost_outputs <- function(tree, call) {
  codes <- names(tree$items)
  parents <- vapply(tree$items, function(item) item$parent, "")
  check_cost_factors(tree, call)
  output <- function(expr, label, aside) {
    made <- new_output(expr, list(unit = tree$currency, label = label))
    made$cost <- tree$name
    if (aside) made$aside <- TRUE
    made
  }
  sum_of <- function(codes) sum_of_names(cost_name(tree, codes))
  made <- lapply(stats::setNames(codes, cost_name(tree, codes)), function(code) {
    item <- tree$items[[code]]
    under <- codes[parents == code]
    output(if (length(under)) sum_of(under) else item_expr(tree, item, codes[parents == item$parent], call), item$label, TRUE)
  })
  made[[tree$name]] <- output(sum_of(codes[!nzchar(parents)]), NULL, FALSE)
  made
}

item_expr <- function(tree, item, siblings, call) {
  part <- function(key, shown = key) if (is_law(item[[key]])) as.symbol(cost_name(tree, paste(item$code, shown))) else item[[key]]
  expr <- if (isTRUE(item$done)) NULL
    else if (!is.null(item$quantity)) call("*", part("quantity"), part("price"))
    else if (!is.null(item$amount)) part("amount")
    else {
      of <- item$of %||% setdiff(siblings, c(item$code, names(Filter(function(other) !is.null(other$percent), tree$items))))
      unknown <- setdiff(of, names(tree$items))
      if (length(unknown)) stop_unknown_name(unknown[1], names(tree$items), "a code of the cost tree", call = call)
      if (length(of) == 0) stop_ensayo("argument", sprintf("The allowance %s must be a per cent of something.", quoted(item$code)),
        "No other item stands beside it.", "Say of which codes: `of`.", call = call)
      call("/", call("*", part("percent"), sum_of_names(cost_name(tree, of))), 100)
    }
  if (is_law(item$factor)) expr <- call("*", expr, part("factor", "range"))
  for (key in c("currency", "price_level")) {
    own <- item[[key]]
    # an allowance is of amounts that are converted already
    if (is.null(own) || identical(own, tree[[key]]) || !is.null(item$percent) || is.null(expr)) next
    factor <- tree[[if (key == "currency") "rates" else "indices"]][[own]]
    expr <- call("*", expr, if (is_law(factor)) as.symbol(factor_name(tree, own)) else factor)
  }
  if (!is.null(item$spent)) expr <- if (is.null(expr)) item$spent else call("+", item$spent, expr)
  expr
}

check_cost_factors <- function(tree, call) {
  for (key in c("currency", "price_level")) {
    words <- c(currency = "currency", price_level = "price level")[[key]]
    argument <- c(currency = ".rates", price_level = ".indices")[[key]]
    own <- lapply(tree$items, function(item) item[[key]])
    said <- unique(unlist(own))
    if (is.null(tree[[key]])) {
      if (length(said) <= 1) next
      stop_ensayo("argument", sprintf("A cost tree of several %s must say which its total has.",
        if (key == "currency") "currencies" else "price levels"),
        sprintf("It has %s.", and_list(quoted(said))), sprintf("Give `.%s`, and `%s` for the others.", key, argument), call = call)
    }
    lacking <- setdiff(said, c(tree[[key]], names(tree[[if (key == "currency") "rates" else "indices"]])))
    if (length(lacking)) {
      stop_ensayo("argument", sprintf("The %s %s must be converted to %s.", words, quoted(lacking[1]), quoted(tree[[key]])),
        sprintf("There is no factor for it; item %s has it.", quoted(names(Filter(function(x) identical(x, lacking[1]), own))[1])),
        sprintf("Such as `%s = list(%s = 0.92)`.", argument, argument_name(lacking[1])), call = call)
    }
  }
}

# The levels of a tree's codes, in the order of a tree read from the top.
cost_levels <- function(tree) {
  codes <- names(tree$items)
  parents <- vapply(tree$items, function(item) item$parent, "")
  walk <- function(parent, level) {
    do.call(rbind, lapply(codes[parents == parent], function(code) {
      rbind(data.frame(code = code, parent = parent, level = level, leaf = !any(parents == code)), walk(code, level + 1))
    }))
  }
  walk("", 1)
}

has_range <- function(item) any(vapply(item[c("quantity", "price", "amount", "percent", "factor")], is_law, NA))

# Items of cost trees whose own figures are uncertain; allowances are per cents of others.
uncertain_items <- function(study) {
  as.character(unlist(lapply(study$costs, function(tree) {
    own <- Filter(function(item) is.null(item$percent) && has_range(item), tree$items)
    if (length(own)) cost_name(tree, names(own))
  }), use.names = FALSE))
}

# Items of one group hang together: a rank correlation of what is uncertain in each with what is in every other.
with_cost_groups <- function(study, tree, call) {
  study$costs[[tree$name]]$paired <- NULL
  for (group in names(tree$together)) {
    own <- Filter(function(item) identical(item$group, group), tree$items)
    inputs <- vapply(own, function(item) {
      keys <- c(quantity = "quantity", price = "price", amount = "amount", percent = "percent", factor = "range")
      at <- names(Filter(is_law, item[names(keys)]))[1]
      if (is.na(at)) "" else cost_name(tree, paste(item$code, keys[[at]]))
    }, "")
    inputs <- unname(inputs[nzchar(inputs)])
    if (length(inputs) < 2) {
      stop_ensayo("argument", sprintf("A group whose items hang together must have two uncertain ones; %s has %d.", quoted(group),
        length(inputs)),
        NULL, suggestion(group, unlist(lapply(tree$items, function(item) item$group))), name = group, call = call)
    }
    ends <- utils::combn(inputs, 2)
    pairs <- data.frame(a = ends[1, ], b = ends[2, ], r = tree$together[[group]])
    study <- add_pairs(study, pairs, FALSE, call)
    study$costs[[tree$name]]$paired <- rbind(study$costs[[tree$name]]$paired, pairs[c("a", "b")])
  }
  study
}

# The outputs of a study that are items or totals of cost trees, but for the trees' own totals.
cost_items_of <- function(study) {
  as.character(unlist(lapply(study$costs, function(tree) cost_name(tree, names(tree$items))), use.names = FALSE))
}
