"""A spreadsheet program as the judge of workbooks: it makes them from plain texts, and calculates them.

    judge.py make BOOK.txt ...            BOOK.xlsx and BOOK.ods of each, as the program saves them
    judge.py runs BOOK.xlsx RUNS.csv      values of cells in runs: RUNS.csv has a column for each input cell and, after an
                                          empty one, for each output cell, whose values are filled in
    judge.py time BOOK.xlsx RUNS.csv      how many runs it calculates a second

A book's text has a line for each cell, "place<TAB>content", after lines "[Sheet]"; what begins with = is a formula, in the
language of ISO/IEC 29500; "name NAME FORMULA" defines a name, "percent", "date" or "money" before a place tells how it is shown.
"table NAME A1:D6 ROWS" makes a table of cells, with so many rows of totals; its headings are the texts of its first row.
"""
import csv
import os
import re
import subprocess
import sys
import tempfile
import time
import zipfile
from xml.sax.saxutils import escape

import uno
from com.sun.star.beans import PropertyValue

# Functions that came after the first edition of the standard, which files mark.
LATER = re.compile(r"(?<![A-Za-z.])(IFNA|IFS|SWITCH|XOR|MINIFS|MAXIFS|CONCAT|TEXTJOIN|NUMBERVALUE|ISOWEEKNUM|DAYS|RRI|PDURATION|PHI|FORECAST\.LINEAR"
                   r"|(?!NETWORKDAYS|WORKDAY)[A-Z]+\.[A-Z0-9]+(?:\.[A-Z0-9]+)?)\(")
STYLES = {"percent": 1, "date": 2, "money": 3}


def read_book(path):
    sheets, names, tables, sheet = {}, [], {}, None
    for line in open(path, encoding="utf-8"):
        line = line.rstrip("\n")
        if not line or line.startswith("#"):
            continue
        if line.startswith("["):
            sheet = sheets.setdefault(line[1:-1], [])
        elif line.startswith("table\t"):
            tables.setdefault(list(sheets)[-1], []).append(line.split("\t")[1:4])
        elif line.startswith("name\t"):
            names.append(line.split("\t")[1:3])
        else:
            parts = line.split("\t")
            shown = parts.pop(0) if parts[0] in STYLES else ""
            sheet.append((parts[0], parts[1], shown))
    return sheets, names, tables


def table_xml(number, table, cells, main):
    name, place, totals = table
    first, last = place.split(":")
    texts = {column_of(at): content for at, content, _ in cells if row_of(at) == row_of(first)}
    columns = "".join('<tableColumn id="%d" name="%s"/>' % (i + 1, escape(texts[column]))
                      for i, column in enumerate(range(column_of(first), column_of(last) + 1)))
    more = ' totalsRowCount="%s"' % totals if totals != "0" else ""
    return ('<table xmlns="%s" id="%d" name="%s" displayName="%s" ref="%s"%s><tableColumns count="%d">%s</tableColumns></table>'
            % (main, number, name, name, place, more, columns.count("<"), columns))


def cell_xml(place, content, shown):
    style = ' s="%d"' % STYLES[shown] if shown else ""
    if content.startswith(("=", "{=")):
        content = LATER.sub(r"_xlfn.\1(", content)
    if content.startswith("{="):
        first = place.split(":")[0]
        return '<c r="%s"%s><f t="array" ref="%s">%s</f></c>' % (first, style, place, escape(content[2:-1]))
    if content.startswith("="):
        return '<c r="%s"%s><f>%s</f></c>' % (place, style, escape(content[1:]))
    if content in ("TRUE", "FALSE"):
        return '<c r="%s" t="b"><v>%d</v></c>' % (place, content == "TRUE")
    try:
        float(content)
        return '<c r="%s"%s><v>%s</v></c>' % (place, style, content)
    except ValueError:
        return '<c r="%s" t="inlineStr"><is><t xml:space="preserve">%s</t></is></c>' % (place, escape(content))


def row_of(place):
    return int("".join(c for c in place.split(":")[0] if c.isdigit()))


def column_of(place):
    number = 0
    for c in place.split(":")[0]:
        if c.isalpha():
            number = number * 26 + ord(c.upper()) - 64
    return number


def write_plain(path, sheets, names, tables):
    main = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
    links = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
    package = "http://schemas.openxmlformats.org/package/2006"
    head = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>\n'
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as out:
        kinds = "".join('<Override PartName="/xl/worksheets/sheet%d.xml" ContentType="application/vnd.openxmlformats-officedocument.'
                        'spreadsheetml.worksheet+xml"/>' % (i + 1) for i in range(len(sheets)))
        every = [(sheet, table) for sheet in tables for table in tables[sheet]]
        kinds += "".join('<Override PartName="/xl/tables/table%d.xml" ContentType="application/vnd.openxmlformats-officedocument.'
                         'spreadsheetml.table+xml"/>' % (i + 1) for i in range(len(every)))
        out.writestr("[Content_Types].xml", head + '<Types xmlns="%s/content-types"><Default Extension="rels" ContentType='
                     '"application/vnd.openxmlformats-package.relationships+xml"/><Override PartName="/xl/workbook.xml" ContentType='
                     '"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/><Override PartName="/xl/styles.xml" '
                     'ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.styles+xml"/>%s</Types>' % (package, kinds))
        out.writestr("_rels/.rels", head + '<Relationships xmlns="%s/relationships"><Relationship Id="rId1" Type="%s/officeDocument" '
                     'Target="xl/workbook.xml"/></Relationships>' % (package, links))
        listed = "".join('<sheet name="%s" sheetId="%d" r:id="rId%d"/>' % (escape(name), i + 1, i + 1) for i, name in enumerate(sheets))
        named = "".join('<definedName name="%s">%s</definedName>' % (name, escape(formula)) for name, formula in names)
        out.writestr("xl/workbook.xml", head + '<workbook xmlns="%s" xmlns:r="%s"><sheets>%s</sheets>%s</workbook>'
                     % (main, links, listed, "<definedNames>%s</definedNames>" % named if named else ""))
        own = "".join('<Relationship Id="rId%d" Type="%s/worksheet" Target="worksheets/sheet%d.xml"/>' % (i + 1, links, i + 1)
                      for i in range(len(sheets)))
        out.writestr("xl/_rels/workbook.xml.rels", head + '<Relationships xmlns="%s/relationships">%s<Relationship Id="rId%d" '
                     'Type="%s/styles" Target="styles.xml"/></Relationships>' % (package, own, len(sheets) + 1, links))
        out.writestr("xl/styles.xml", head + '<styleSheet xmlns="%s"><numFmts count="1"><numFmt numFmtId="164" formatCode="#,##0.00\\ &quot;EUR&quot;"/>'
                     '</numFmts><fonts count="1"><font/></fonts><fills count="1"><fill/></fills><borders count="1"><border/></borders>'
                     '<cellStyleXfs count="1"><xf/></cellStyleXfs><cellXfs count="4"><xf numFmtId="0"/><xf numFmtId="10" applyNumberFormat="1"/>'
                     '<xf numFmtId="14" applyNumberFormat="1"/><xf numFmtId="164" applyNumberFormat="1"/></cellXfs></styleSheet>' % main)
        for i, (name, cells) in enumerate(sheets.items()):
            here = [(k + 1, table) for k, (sheet, table) in enumerate(every) if sheet == name]
            parts = "".join('<tablePart xmlns:r="%s" r:id="rId%d"/>' % (links, k) for k, _ in here)
            parts = '<tableParts count="%d">%s</tableParts>' % (len(here), parts) if here else ""
            if here:
                own = "".join('<Relationship Id="rId%d" Type="%s/table" Target="../tables/table%d.xml"/>' % (k, links, k) for k, _ in here)
                out.writestr("xl/worksheets/_rels/sheet%d.xml.rels" % (i + 1), head + '<Relationships xmlns="%s/relationships">%s</Relationships>' % (package, own))
            for k, table in here:
                out.writestr("xl/tables/table%d.xml" % k, head + table_xml(k, table, cells, main))
            rows = {}
            for place, content, shown in cells:
                rows.setdefault(row_of(place), []).append((column_of(place), cell_xml(place, content, shown)))
            body = "".join('<row r="%d">%s</row>' % (row, "".join(text for _, text in sorted(rows[row]))) for row in sorted(rows))
            out.writestr("xl/worksheets/sheet%d.xml" % (i + 1), head + '<worksheet xmlns="%s"><sheetData>%s</sheetData>%s</worksheet>' % (main, body, parts))


def prop(name, value):
    out = PropertyValue()
    out.Name, out.Value = name, value
    return out


class Program:
    """The spreadsheet program, without a window, over a pipe of its own."""

    def __enter__(self):
        self.folder = tempfile.mkdtemp()
        pipe = "ensayo%d" % os.getpid()
        self.process = subprocess.Popen(["soffice", "--headless", "--norestore", "--nologo", "-env:UserInstallation=file://%s/profile" % self.folder,
                                         "--accept=pipe,name=%s;urp;" % pipe], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        local = uno.getComponentContext()
        resolver = local.ServiceManager.createInstanceWithContext("com.sun.star.bridge.UnoUrlResolver", local)
        for _ in range(120):
            try:
                context = resolver.resolve("uno:pipe,name=%s;urp;StarOffice.ComponentContext" % pipe)
                break
            except Exception:
                time.sleep(0.5)
        else:
            raise SystemExit("the spreadsheet program does not answer")
        self.desktop = context.ServiceManager.createInstanceWithContext("com.sun.star.frame.Desktop", context)
        return self

    def __exit__(self, *_):
        try:
            self.desktop.terminate()
        except Exception:
            pass
        self.process.wait(30)

    def open(self, path):
        return self.desktop.loadComponentFromURL(uno.systemPathToFileUrl(os.path.abspath(path)), "_blank", 0, (prop("Hidden", True),))


def cell_of(book, place):
    sheet, cell = place.rsplit("!", 1)
    return book.Sheets.getByName(sheet.strip("'")).getCellRangeByName(cell)


def value_of(cell):
    if cell.getError():
        return "#" + cell.String.strip("#")
    kind = cell.Type.value if cell.Type.value != "FORMULA" else cell.FormulaResultType2
    if kind in ("TEXT", 2, 4):
        return cell.String
    return repr(cell.Value)


def make(program, paths):
    for path in paths:
        sheets, names, tables = read_book(path)
        plain = os.path.join(program.folder, "plain.xlsx")
        write_plain(plain, sheets, names, tables)
        book = program.open(plain)
        book.calculateAll()
        stem = os.path.splitext(path)[0]
        for ending, kind in ((".xlsx", "Calc MS Excel 2007 XML"), (".ods", "calc8")):
            book.storeToURL(uno.systemPathToFileUrl(os.path.abspath(stem + ending)), (prop("FilterName", kind),))
        book.close(True)


def runs(program, path, table, timed=False):
    rows = list(csv.reader(open(table, encoding="utf-8")))
    head, rows = rows[0], rows[1:]
    gap = head.index("")
    book = program.open(path)
    inputs = [cell_of(book, place) for place in head[:gap]]
    outputs = [cell_of(book, place) for place in head[gap + 1:]]
    filled, started = [], time.time()
    for row in rows:
        book.enableAutomaticCalculation(False)
        for cell, text in zip(inputs, row[:gap]):
            cell.Value = float(text)
        book.calculate()
        values = [value_of(cell) for cell in outputs]
        filled.append(row[:gap] + [""] + values)
    seconds = time.time() - started
    book.close(True)
    if timed:
        print("%.6g" % (len(rows) / seconds))
        return
    with open(table, "w", encoding="utf-8", newline="") as out:
        csv.writer(out, lineterminator="\n").writerows([head] + filled)


if __name__ == "__main__":
    with Program() as program:
        if sys.argv[1] == "make":
            make(program, sys.argv[2:])
        else:
            runs(program, sys.argv[2], sys.argv[3], sys.argv[1] == "time")
