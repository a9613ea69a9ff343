# New sheets in workbooks of the format .xlsx (ISO/IEC 29500-1, and its strict form).

office_types <- "application/vnd.openxmlformats-officedocument"

new_office_parts <- function() {
  head <- "<?xml version=\"1.0\" encoding=\"UTF-8\" standalone=\"yes\"?>\n"
  packages <- "http://schemas.openxmlformats.org/package/2006"
  links <- sprintf("<Relationships xmlns=\"%s/relationships\">", packages)
  transitional <- office_names(FALSE)
  list(
    `[Content_Types].xml` = paste0(head, sprintf("<Types xmlns=\"%s/content-types\">", packages),
      "<Default Extension=\"rels\" ContentType=\"application/vnd.openxmlformats-package.relationships+xml\"/><Default Extension=\"xml\" ContentType=\"application/xml\"/>",
      sprintf("<Override PartName=\"/xl/workbook.xml\" ContentType=\"%s.spreadsheetml.sheet.main+xml\"/>", office_types),
      type_text("xl/styles.xml", "spreadsheetml.styles+xml"), "</Types>"),
    `_rels/.rels` = paste0(head, links, sprintf("<Relationship Id=\"rId1\" Type=\"%s/officeDocument\" Target=\"xl/workbook.xml\"/></Relationships>", transitional$links)),
    `xl/workbook.xml` = paste0(head, sprintf("<workbook xmlns=\"%s\"><bookViews><workbookView/></bookViews><sheets></sheets></workbook>", transitional$main)),
    `xl/_rels/workbook.xml.rels` = paste0(head, links, relationship_text("rId1", transitional, "styles", "styles.xml"), "</Relationships>"),
    `xl/styles.xml` = new_styles(transitional)
  )
}

# The names of the two forms.
office_names <- function(strict) {
  if (strict) {
    base <- "http://purl.oclc.org/ooxml"
    return(list(main = paste0(base, "/spreadsheetml/main"), links = paste0(base, "/officeDocument/relationships"), drawing = paste0(base, "/drawingml/spreadsheetDrawing"),
      art = paste0(base, "/drawingml/main")))
  }
  base <- "http://schemas.openxmlformats.org"
  list(main = paste0(base, "/spreadsheetml/2006/main"), links = paste0(base, "/officeDocument/2006/relationships"), drawing = paste0(base, "/drawingml/2006/spreadsheetDrawing"),
    art = paste0(base, "/drawingml/2006/main"))
}

office_with_sheets <- function(archive, sheets) {
  places <- office_places(archive)
  start <- places$start
  word <- free_word(archive)
  book <- xml_elements(archive, start, c("workbook", "sheets", "sheet", "workbookView"))
  names <- office_names(grepl("purl.oclc.org/ooxml/spreadsheetml", book$tag[book$local == "workbook"][1], fixed = TRUE))
  styles <- unique(unlist(lapply(sheets, function(sheet) sheet$cells$style)))
  styled <- office_with_styles(archive, places, names, styles)
  archive <- styled$archive
  first_day <- days_to_1970(part_read(archive, start, cpp_office_book(archive$bytes[[start]])))
  ids <- suppressWarnings(as.double(tag_value(book$tag[book$local == "sheet"], "sheetId")))
  first_id <- max(0, ids, na.rm = TRUE)
  sheet_tags <- links <- types <- character()
  for (i in seq_along(sheets)) {
    sheet <- sheets[[i]]
    part <- sprintf("worksheets/%s-%d.xml", word, i)
    dated <- sheet$cells$style == "date"
    sheet$cells$number[dated] <- sheet$cells$number[dated] + first_day
    archive <- with_part(archive, paste0(places$folder, part), office_sheet_text(sheet, styled$ids, names, any(book$local == "workbookView")))
    id <- sprintf("%s%d", word, i)
    sheet_tags[i] <- sprintf("<%ssheet xmlns:r=\"%s\" name=\"%s\" sheetId=\"%.0f\" r:id=\"%s\"/>", book$prefix[book$local == "sheets"][1], names$links,
      xml_text(sheet$name), first_id + i, id)
    links[i] <- relationship_text(id, names, "worksheet", part)
    types <- c(types, type_text(paste0(places$folder, part), "spreadsheetml.worksheet+xml"))
    if (length(sheet$pictures)) {
      archive <- office_with_pictures(archive, sheet$pictures, places$folder, sprintf("%s-%d", word, i), names)
      types <- c(types, type_text(sprintf("%sdrawings/%s-%d.xml", places$folder, word, i), "drawing+xml"))
    }
  }
  archive <- part_with(archive, start, "sheets", paste(sheet_tags, collapse = ""))
  archive <- in_package(archive, places$links_part, "Relationships", paste(links, collapse = ""))
  known <- xml_elements(archive, "[Content_Types].xml", "Default")
  if (!"png" %in% tolower(tag_value(known$tag, "Extension"))) types <- c("<Default Extension=\"png\" ContentType=\"image/png\"/>", types)
  in_package(archive, "[Content_Types].xml", "Types", paste(types, collapse = ""))
}

# Lists of a package may have a prefix, which their new members have, too.
in_package <- function(archive, part, name, text) {
  prefix <- xml_elements(archive, part, name)$prefix[1]
  part_with(archive, part, name, gsub("<([A-Z])", sprintf("<%s\\1", prefix), text))
}

relationship_text <- function(id, names, kind, target) {
  sprintf("<Relationship Id=\"%s\" Type=\"%s/%s\" Target=\"%s\"/>", id, names$links, kind, target)
}

type_text <- function(part, type) sprintf("<Override PartName=\"/%s\" ContentType=\"%s.%s\"/>", part, office_types, type)

office_sheet_text <- function(sheet, ids, names, viewed) {
  cells <- sheet$cells
  place <- paste0(column_letters(cells$column), cells$row)
  style <- ids[cells$style]
  style <- ifelse(style > 0, sprintf(" s=\"%d\"", style), "")
  is_text <- !is.na(cells$text)
  # a sequence that the standard takes for a character (18.18.85, ST_Xstring) is written as text
  text <- gsub("_(x[0-9A-Fa-f]{4}_)", "_x005F_\\1", substr(cells$text, 1, 32000))
  tags <- ifelse(is_text,
    sprintf("<c r=\"%s\"%s t=\"inlineStr\"><is><t xml:space=\"preserve\">%s</t></is></c>", place, style, xml_text(ifelse(is_text, text, ""))),
    sprintf("<c r=\"%s\"%s><v>%s</v></c>", place, style, cpp_number_text(cells$number)))
  rows <- vapply(split(tags, cells$row), paste, "", collapse = "")
  paste0("<?xml version=\"1.0\" encoding=\"UTF-8\" standalone=\"yes\"?>\n",
    sprintf("<worksheet xmlns=\"%s\"><sheetPr><pageSetUpPr fitToPage=\"1\"/></sheetPr>", names$main),
    if (viewed) "<sheetViews><sheetView showGridLines=\"0\" workbookViewId=\"0\"/></sheetViews>",
    if (length(sheet$widths)) sprintf("<cols>%s</cols>", paste(sprintf("<col min=\"%d\" max=\"%d\" width=\"%.1f\" customWidth=\"1\"/>", seq_along(sheet$widths),
      seq_along(sheet$widths), sheet$widths + 2), collapse = "")),
    "<sheetData>", paste(sprintf("<row r=\"%s\">%s</row>", names(rows), rows), collapse = ""), "</sheetData>",
    "<pageSetup orientation=\"landscape\" fitToHeight=\"0\"/>",
    if (length(sheet$pictures)) sprintf("<drawing xmlns:r=\"%s\" r:id=\"rId1\"/>", names$links), "</worksheet>")
}

office_with_pictures <- function(archive, pictures, folder, word, names) {
  packages <- "<Relationships xmlns=\"http://schemas.openxmlformats.org/package/2006/relationships\">"
  media <- sprintf("media/%s-%d.png", word, seq_along(pictures))
  for (i in seq_along(pictures)) archive <- with_part(archive, paste0(folder, media[i]), readBin(pictures[[i]]$file, "raw", file.size(pictures[[i]]$file)))
  units <- function(inches) sprintf("%.0f", 914400 * inches)
  one <- function(picture, i) {
    size <- sprintf("cx=\"%s\" cy=\"%s\"", units(picture$width), units(picture$height))
    place <- sprintf("x=\"%s\" y=\"%s\"", units(picture$left), units(picture$top))
    paste0(sprintf("<xdr:absoluteAnchor><xdr:pos %s/><xdr:ext %s/><xdr:pic><xdr:nvPicPr><xdr:cNvPr id=\"%d\" name=\"Figure %d\" descr=\"%s\"/>", place, size, i + 1,
      i, xml_text(picture$words)), "<xdr:cNvPicPr><a:picLocks noChangeAspect=\"1\"/></xdr:cNvPicPr></xdr:nvPicPr>",
      sprintf("<xdr:blipFill><a:blip r:embed=\"rId%d\"/><a:stretch><a:fillRect/></a:stretch></xdr:blipFill>", i),
      sprintf("<xdr:spPr><a:xfrm><a:off %s/><a:ext %s/></a:xfrm><a:prstGeom prst=\"rect\"><a:avLst/></a:prstGeom></xdr:spPr></xdr:pic>", place, size),
      "<xdr:clientData/></xdr:absoluteAnchor>")
  }
  drawing <- paste0(sprintf("<xdr:wsDr xmlns:xdr=\"%s\" xmlns:a=\"%s\" xmlns:r=\"%s\">", names$drawing, names$art, names$links),
    paste(unlist(Map(one, pictures, seq_along(pictures))), collapse = ""), "</xdr:wsDr>")
  archive <- with_part(archive, sprintf("%sdrawings/%s.xml", folder, word), drawing)
  archive <- with_part(archive, sprintf("%sdrawings/_rels/%s.xml.rels", folder, word), paste0(packages,
    paste(relationship_text(sprintf("rId%d", seq_along(pictures)), names, "image", paste0("../", media)), collapse = ""), "</Relationships>"))
  with_part(archive, sprintf("%sworksheets/_rels/%s.xml.rels", folder, word), paste0(packages, relationship_text("rId1", names, "drawing", sprintf("../drawings/%s.xml", word)),
    "</Relationships>"))
}

# Styles ----------------------------------------------------------------------------------------------------------------

# What the part of styles consists of, in its order; the first member of those that must have one.
style_lists <- c("numFmts", "fonts", "fills", "borders", "cellStyleXfs", "cellXfs", "cellStyles", "dxfs", "tableStyles", "colors", "extLst")
style_members <- c(numFmts = "numFmt", fonts = "font", borders = "border", cellXfs = "xf")
first_members <- c(numFmts = "", fonts = "<font><sz val=\"11\"/></font>", borders = "<border/>", cellXfs = "<xf numFmtId=\"0\" fontId=\"0\" fillId=\"0\" borderId=\"0\"/>")

new_styles <- function(names) {
  plain <- "<xf numFmtId=\"0\" fontId=\"0\" fillId=\"0\" borderId=\"0\"/>"
  paste0(sprintf("<styleSheet xmlns=\"%s\"><fonts count=\"1\"><font><sz val=\"11\"/></font></fonts>", names$main),
    "<fills count=\"2\"><fill><patternFill patternType=\"none\"/></fill><fill><patternFill patternType=\"gray125\"/></fill></fills>",
    "<borders count=\"1\"><border><left/><right/><top/><bottom/><diagonal/></border></borders>",
    sprintf("<cellStyleXfs count=\"1\">%s</cellStyleXfs><cellXfs count=\"1\">%s</cellXfs></styleSheet>", plain, plain))
}

# The archive with some styles, and their numbers by their names; those that cells have without one are 0.
office_with_styles <- function(archive, places, names, styles) {
  part <- office_part(places, "styles")
  if (is.null(part)) {
    part <- paste0(places$folder, "styles.xml")
    archive <- with_part(archive, part, new_styles(names))
    archive <- in_package(archive, places$links_part, "Relationships", relationship_text("ensayoStyles", names, "styles", "styles.xml"))
    archive <- in_package(archive, "[Content_Types].xml", "Types", type_text(part, "spreadsheetml.styles+xml"))
  }
  found <- xml_elements(archive, part, c("styleSheet", style_lists, unname(style_members)))
  if (!"styleSheet" %in% found$local) stop_workbook(archive$file, "its styles make no sense")
  prefix <- found$prefix[1]
  members <- lapply(stats::setNames(nm = names(style_members)), function(list) {
    found[found$local == style_members[[list]] & found$within == match(list, found$local, nomatch = 0), ]
  })
  count <- vapply(members, nrow, 0L)
  # a list without members has its first one added
  count[count == 0 & first_members != ""] <- 1L
  formats <- Filter(nzchar, vapply(styles, office_format, ""))
  # also those that cells use without a format of that number
  format_ids <- max(163, suppressWarnings(as.integer(tag_value(found$tag[found$local %in% c("numFmt", "xf")], "numFmtId"))), na.rm = TRUE) + seq_along(formats)
  names(format_ids) <- names(formats)
  base <- if (nrow(members$fonts)) rawToChar(archive$bytes[[part]][(members$fonts$open[1] + 1):members$fonts$closed[1]]) else first_members[["fonts"]]
  added <- list(
    numFmts = sprintf("<numFmt numFmtId=\"%d\" formatCode=\"%s\"/>", format_ids, xml_text(formats)),
    fonts = c(font_like(base, "<b/>"), font_like(base, "<b/>", 15), font_like(base, "<i/>")),
    borders = "<border><left/><right/><top/><bottom style=\"thin\"><color auto=\"1\"/></bottom><diagonal/></border>",
    cellXfs = vapply(setdiff(styles, "plain"), office_look, "", fonts = count[["fonts"]], border = count[["borders"]], formats = format_ids))
  ids <- stats::setNames(rep(0L, length(styles)), styles)
  ids[setdiff(styles, "plain")] <- count[["cellXfs"]] + seq_along(added$cellXfs) - 1L
  for (list in names(added)[lengths(added) > 0]) {
    text <- gsub("<(/?)([A-Za-z])", sprintf("<\\1%s\\2", prefix), gsub(sprintf("<(/?)%s", prefix), "<\\1", added[[list]]))
    if (nrow(members[[list]]) == 0) text <- c(gsub("<(/?)([A-Za-z])", sprintf("<\\1%s\\2", prefix), first_members[[list]]), text)
    archive <- with_style_list(archive, part, list, paste(text, collapse = ""), count[[list]] + length(added[[list]]))
  }
  list(archive = archive, ids = ids)
}

# More in one of the lists, which is made where it is not there.
with_style_list <- function(archive, part, list, text, count) {
  found <- xml_elements(archive, part, c("styleSheet", style_lists))
  element <- found[found$local == list & found$within == 1, ][1, ]
  root <- found[1, ]
  whole <- sprintf("<%s%s count=\"%d\">%s</%s%s>", root$prefix, list, count, text, root$prefix, list)
  after <- found[found$within == 1 & found$local %in% style_lists[-seq_len(match(list, style_lists))], ][1, ]
  edits <- if (!is.na(element$open)) {
    at_end_of(element, text, sub("count[[:space:]]*=[[:space:]]*[\"'][0-9]*[\"']", sprintf("count=\"%d\"", count), element$tag))
  } else if (is.na(after$open)) at_end_of(root, whole) else list(list(from = after$open, to = after$open, text = whole))
  with_part(archive, part, edited(archive$bytes[[part]], edits))
}

# The workbook's own font, bold or slanted, of another size.
font_like <- function(base, with, size = NULL) {
  bare <- gsub("<([A-Za-z0-9]+:)?(b|i)( [^>]*)?/>", "", base)
  bare <- if (grepl("/>$", bare) && !grepl("</", bare)) "<font><sz val=\"11\"/></font>" else bare
  if (!is.null(size)) bare <- gsub("(<([A-Za-z0-9]+:)?sz [^>]*val=)[\"'][0-9.]+[\"']", sprintf("\\1\"%d\"", size), bare)
  sub("^(<[^>]*>)", paste0("\\1", with), bare)
}

# The code of a style's format of numbers, "" for none of its own.
office_format <- function(style) {
  parts <- style_parts(style)
  zeros <- if (parts$decimals > 0) paste0(".", strrep("0", parts$decimals)) else ""
  switch(parts$kind, number = paste0("0", zeros), grouped = paste0("#,##0", zeros), percent = paste0("0", zeros, "\\ %"), power = paste0("0", zeros, "E+00"),
    below = , above = sprintf("\"%s\"", edge_text(parts)), date = "yyyy\\-mm\\-dd", "")
}

office_look <- function(style, fonts, border, formats) {
  heads <- startsWith(style, "heading")
  font <- if (heads) fonts else switch(style, title = fonts + 1L, note = fonts + 2L, 0L)
  aligned <- if (endsWith(style, "right")) "horizontal=\"right\"" else if (endsWith(style, "away")) "horizontal=\"left\" indent=\"1\""
  format <- if (style %in% names(formats)) formats[[style]] else 0L
  sprintf("<xf numFmtId=\"%d\" fontId=\"%d\" fillId=\"0\" borderId=\"%d\" xfId=\"0\" applyNumberFormat=\"1\" applyFont=\"1\" applyBorder=\"1\"%s", format, font,
    if (heads) border else 0L, if (is.null(aligned)) "/>" else sprintf(" applyAlignment=\"1\"><alignment %s/></xf>", aligned))
}
