# The worth of knowing, in lines for the terminal.

worth_lines <- function(worth) {
  spread <- max(worth$high - worth$worth, 1e-300)
  number <- function(x) ifelse(is.finite(x), format_decimals(x, decimals_of(0, spread)), "")
  cells <- drop_empty(list(`known before deciding` = worth$about, worth = number(worth$worth), `95 %` = sprintf("%s to %s", number(worth$low), number(worth$high)),
    bias = number(worth$bias), `half the spread` = number(worth$halved), share = format_share(worth$share, 0), ` ` = ifelse(worth$noise, "noise", ""),
    remark = worth$remark))
  names(cells)[2] <- with_unit("worth", unit_in_brackets(worth$unit[1]))
  c(heading("Worth of knowing before deciding"), text_table(cells, numeric = !names(cells) %in% c("known before deciding", " ", "remark"), indent = "  "))
}
