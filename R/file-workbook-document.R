# New sheets in workbooks of the format .ods (OpenDocument 1.3).

document_names <- "urn:oasis:names:tc:opendocument:xmlns:"

# The declarations of the prefixes that new elements use.
document_prefixes <- function(prefixes) {
  at <- c(office = "office:1.0", table = "table:1.0", text = "text:1.0", style = "style:1.0", number = "datastyle:1.0", draw = "drawing:1.0", manifest = "manifest:1.0")
  own <- intersect(prefixes, names(at))
  urls <- c(sprintf("xmlns:%s=\"%s%s\"", own, document_names, at[own]), if ("fo" %in% prefixes) sprintf("xmlns:fo=\"%sxsl-fo-compatible:1.0\"", document_names),
    if ("svg" %in% prefixes) sprintf("xmlns:svg=\"%ssvg-compatible:1.0\"", document_names), if ("xlink" %in% prefixes) "xmlns:xlink=\"http://www.w3.org/1999/xlink\"")
  paste(urls, collapse = " ")
}

new_document_parts <- function() {
  kind <- "application/vnd.oasis.opendocument.spreadsheet"
  head <- "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n"
  list(
    mimetype = kind,
    `content.xml` = paste0(head, sprintf("<office:document-content %s office:version=\"1.3\"><office:automatic-styles/><office:body><office:spreadsheet></office:spreadsheet></office:body></office:document-content>",
      document_prefixes("office"))),
    `META-INF/manifest.xml` = paste0(head, sprintf("<manifest:manifest %s manifest:version=\"1.3\"><manifest:file-entry manifest:full-path=\"/\" manifest:media-type=\"%s\"/>",
      document_prefixes("manifest"), kind), "<manifest:file-entry manifest:full-path=\"content.xml\" manifest:media-type=\"text/xml\"/></manifest:manifest>")
  )
}

document_with_sheets <- function(archive, sheets) {
  word <- free_word(archive)
  part <- "content.xml"
  styles <- unique(unlist(lapply(sheets, function(sheet) sheet$cells$style)))
  widths <- sort(unique(unlist(lapply(sheets, function(sheet) sheet$widths))))
  entries <- character()
  tables <- vapply(seq_along(sheets), function(i) {
    sheet <- sheets[[i]]
    for (k in seq_along(sheet$pictures)) {
      at <- sprintf("Pictures/%s-%d-%d.png", word, i, k)
      archive <<- with_part(archive, at, readBin(sheet$pictures[[k]]$file, "raw", file.size(sheet$pictures[[k]]$file)))
      entries <<- c(entries, sprintf("<manifest:file-entry %s manifest:full-path=\"%s\" manifest:media-type=\"image/png\"/>", document_prefixes("manifest"), at))
    }
    document_table(sheet, word, i, widths)
  }, "")
  found <- xml_elements(archive, part, c("automatic-styles", "body", "spreadsheet", "table"))
  book <- match("spreadsheet", found$local)
  if (is.na(book)) stop_workbook(archive$file, "it holds no sheets")
  last <- utils::tail(which(found$local == "table" & found$within == book & found$depth == found$depth[book] + 1), 1)
  behind <- if (length(last)) list(list(from = found$closed[last], to = found$closed[last], text = paste(tables, collapse = ""))) else
    at_end_of(found[book, ], paste(tables, collapse = ""))
  looks <- document_looks(styles, widths, word)
  list_of_styles <- match("automatic-styles", found$local)
  if (is.na(list_of_styles)) {
    body <- found[match("body", found$local), ]
    looks <- list(list(from = body$open, to = body$open, text = sprintf("<office:automatic-styles %s>%s</office:automatic-styles>", document_prefixes("office"), looks)))
  } else looks <- at_end_of(found[list_of_styles, ], looks)
  archive <- with_part(archive, part, edited(archive$bytes[[part]], c(behind, looks)))
  if (length(entries)) part_with(archive, "META-INF/manifest.xml", "manifest", paste(entries, collapse = "")) else archive
}

document_table <- function(sheet, word, i, widths) {
  cells <- sheet$cells
  is_text <- !is.na(cells$text)
  parts <- lapply(cells$style, style_parts)
  kinds <- vapply(parts, `[[`, "", "kind")
  shown <- cpp_number_text(cells$number)
  style <- ifelse(cells$style == "plain", "", sprintf(" table:style-name=\"%s-%s\"", word, cells$style))
  value <- ifelse(is_text, " office:value-type=\"string\"", ifelse(kinds == "date",
    sprintf(" office:value-type=\"date\" office:date-value=\"%s\"", format(as_day(ifelse(is.finite(cells$number), cells$number, 0)))),
    sprintf(" office:value-type=\"%s\" office:value=\"%s\"", ifelse(kinds == "percent", "percentage", "float"), shown)))
  # a line for each line of a text; spaces at its ends and in rows of several are its own (part 3, 6.1.2)
  text <- gsub("\n", "</text:p><text:p>", gsub("  ", " <text:s/>", sub("^ ", "<text:s/>", xml_text(ifelse(is_text, cells$text, "")))))
  before <- cells$column - c(0, cells$column[-nrow(cells)]) * (cells$row == c(0, cells$row[-nrow(cells)])) - 1
  tags <- paste0(ifelse(before > 0, sprintf("<table:table-cell table:number-columns-repeated=\"%d\"/>", before), ""), sprintf("<table:table-cell%s%s>", style, value),
    ifelse(is_text, sprintf("<text:p>%s</text:p>", text), ""), "</table:table-cell>")
  rows <- vapply(split(tags, cells$row), paste, "", collapse = "")
  at <- as.integer(names(rows))
  gap <- at - c(0, at[-length(at)]) - 1
  shapes <- vapply(seq_along(sheet$pictures), function(k) {
    picture <- sheet$pictures[[k]]
    sprintf(paste0("<draw:frame draw:z-index=\"%d\" draw:name=\"Figure %d\" svg:x=\"%.3fin\" svg:y=\"%.3fin\" svg:width=\"%.3fin\" svg:height=\"%.3fin\">",
      "<draw:image xlink:href=\"Pictures/%s-%d-%d.png\" xlink:type=\"simple\" xlink:show=\"embed\" xlink:actuate=\"onLoad\"/><svg:desc>%s</svg:desc></draw:frame>"), k, k, picture$left,
    picture$top, picture$width, picture$height, word, i, k, xml_text(picture$words))
  }, "")
  paste0(sprintf("<table:table %s table:name=\"%s\">", document_prefixes(c("office", "table", "text", "draw", "svg", "xlink")), xml_text(sheet$name)),
    if (length(shapes)) sprintf("<table:shapes>%s</table:shapes>", paste(shapes, collapse = "")),
    if (length(sheet$widths)) paste(sprintf("<table:table-column table:style-name=\"%s-w%d\"/>", word, match(sheet$widths, widths)), collapse = "") else "<table:table-column/>",
    if (length(rows)) paste0(ifelse(gap > 0, sprintf("<table:table-row table:number-rows-repeated=\"%d\"><table:table-cell/></table:table-row>", gap), ""),
      sprintf("<table:table-row>%s</table:table-row>", rows), collapse = "") else "<table:table-row><table:table-cell/></table:table-row>",
    "</table:table>")
}

# How cells and columns look.
document_looks <- function(styles, widths, word) {
  declared <- document_prefixes(c("style", "number", "fo", "table"))
  one <- function(style) {
    parts <- style_parts(style)
    name <- sprintf("%s-%s", word, style)
    digits <- sprintf("number:decimal-places=\"%d\" number:min-integer-digits=\"1\"", parts$decimals)
    kind <- switch(parts$kind, number = , grouped = c("number-style", sprintf("<number:number %s%s/>", digits, if (parts$kind == "grouped") " number:grouping=\"true\"" else "")),
      percent = c("percentage-style", sprintf("<number:number %s/><number:text> %%</number:text>", digits)),
      below = , above = c("number-style", sprintf("<number:text>%s</number:text>", xml_text(edge_text(parts)))),
      power = c("number-style", sprintf("<number:scientific-number %s number:min-exponent-digits=\"2\"/>", digits)),
      date = c("date-style", "<number:year number:style=\"long\"/><number:text>-</number:text><number:month number:style=\"long\"/><number:text>-</number:text><number:day number:style=\"long\"/>"))
    heads <- startsWith(style, "heading")
    look <- paste0("", if (heads) "<style:table-cell-properties fo:border-bottom=\"0.75pt solid #000000\"/>",
      if (endsWith(style, "right")) "<style:paragraph-properties fo:text-align=\"end\"/>" else if (endsWith(style, "away")) "<style:paragraph-properties fo:margin-left=\"0.1in\"/>",
      if (heads) "<style:text-properties fo:font-weight=\"bold\"/>" else switch(style, title = "<style:text-properties fo:font-weight=\"bold\" fo:font-size=\"15pt\"/>",
        note = "<style:text-properties fo:font-style=\"italic\"/>"))
    paste0(if (!is.null(kind)) sprintf("<number:%s %s style:name=\"%s-n\">%s</number:%s>", kind[1], declared, name, kind[2], kind[1]),
      sprintf("<style:style %s style:name=\"%s\" style:family=\"table-cell\"%s>%s</style:style>", declared, name,
        if (is.null(kind)) "" else sprintf(" style:data-style-name=\"%s-n\"", name), look))
  }
  columns <- sprintf("<style:style %s style:name=\"%s-w%d\" style:family=\"table-column\"><style:table-column-properties style:column-width=\"%.2fin\"/></style:style>", declared, word,
    seq_along(widths), (widths + 2) * 0.085)
  paste(c(vapply(setdiff(styles, "plain"), one, ""), columns), collapse = "")
}
