#!/usr/bin/env python3
"""Writes the table of ../dresses as workbooks, by writers that know nothing of each other.

Usage: python3 make.py   (in this folder; needs the packages openpyxl and xlsxwriter, and LibreOffice)

The tests check that each gives the same findings at the same cells as the text does, apart from what is special to
it. All of it is invented.
"""
import datetime
import os
import pathlib
import re
import struct
import subprocess
import sys
import tempfile
import zipfile

import openpyxl
import xlsxwriter

here = pathlib.Path(__file__).parent
sys.path.insert(0, str(here.parent / "dresses"))
os.environ["PYTHONDONTWRITEBYTECODE"] = "1"
sys.dont_write_bytecode = True
from make import HEADINGS, rows  # noqa: E402

NO, JOINED, FEE = 0, 2, 3
made_in = tempfile.mkdtemp()


def typed(column, text):
    """The value as a spreadsheet would keep it."""
    if column in (NO, FEE) and re.fullmatch(r"[0-9]+(\.[0-9]+)?", text) and text != "22.0":
        return float(text) if "." in text else int(text)
    if column == JOINED and re.fullmatch(r"2019-[0-9]{2}-[0-9]{2}", text) and text != "2019-02-30":
        return datetime.date.fromisoformat(text)
    if column == JOINED and text == "43830":
        return 43830
    return text


def by_openpyxl(name, above=0, between=False):
    book = openpyxl.Workbook()
    sheet = book.active
    sheet.title = "Members"
    for _ in range(above):
        sheet.append(["Members of the club"])
    sheet.append(HEADINGS)
    for number, row in enumerate(rows, start=above + 2):
        for column, text in enumerate(row, start=1):
            value = typed(column - 1, text.replace("\u0007", ""))
            if value != "":
                cell = sheet.cell(number, column, value)
                if isinstance(value, str) and value.startswith("="):
                    cell.data_type = "s"
    book.save(here / name)


def by_xlsxwriter(name, options=None, constant=False):
    book = xlsxwriter.Workbook(here / name, {"constant_memory": constant, **(options or {})})
    sheet = book.add_worksheet("Members")
    day = book.add_format({"num_format": "dd.mm.yyyy"})
    for column, text in enumerate(HEADINGS):
        sheet.write_string(0, column, text)
    for number, row in enumerate(rows, start=1):
        for column, text in enumerate(row):
            value = typed(column, text)
            if value == "":
                continue
            if isinstance(value, datetime.date):
                sheet.write_datetime(number, column, datetime.datetime.combine(value, datetime.time()), day)
            elif isinstance(value, str):
                sheet.write_string(number, column, value)
            else:
                sheet.write_number(number, column, value)
    book.close()


by_openpyxl("openpyxl.xlsx")
by_openpyxl("openpyxl-title.xlsx", above=2)
by_xlsxwriter("xlsxwriter.xlsx")
by_xlsxwriter("xlsxwriter-inline.xlsx", constant=True)
by_xlsxwriter("xlsxwriter-1904.xlsx", {"date_1904": True})
subprocess.run(["soffice", "--headless", "--convert-to", "xlsx:Calc MS Excel 2007 XML", "--outdir", made_in,
                str(here / "xlsxwriter.xlsx")], check=True, stdout=subprocess.DEVNULL)
(here / "libreoffice.xlsx").write_bytes(pathlib.Path(made_in, "xlsxwriter.xlsx").read_bytes())


def by_libreoffice(source, form, name):
    """The workbook saved again in another form."""
    subprocess.run(["soffice", "--headless", "--convert-to", form, "--outdir", made_in, str(here / source)],
                   check=True, stdout=subprocess.DEVNULL)
    made = pathlib.Path(made_in, pathlib.Path(source).stem + "." + form.split(":")[0])
    (here / name).write_bytes(made.read_bytes())


def pretty(source, name):
    """The same ODS with its XML indented, as some writers do."""
    with zipfile.ZipFile(here / source) as old, zipfile.ZipFile(here / name, "w", zipfile.ZIP_DEFLATED) as new:
        for item in old.infolist():
            data = old.read(item.filename)
            if item.filename == "content.xml":
                # Between the elements of tables only: inside a paragraph white space counts.
                data = re.sub(rb"(<(?:table|office|/table|/office)[^>]*>)(?=<)", rb"\1\n    ", data)
            new.writestr(item.filename, data)


by_libreoffice("xlsxwriter.xlsx", "ods", "libreoffice.ods")
pretty("libreoffice.ods", "pretty.ods")
by_libreoffice("xlsxwriter.xlsx", "xls:MS Excel 97", "libreoffice.xls")



def assembled_xlsb(name, short):
    """The binary form of the same parts, record by record from the published specification (MS-XLSB). With short
    records a cell does not say its column: it stands behind the one before."""
    def record(kind, data=b""):
        head = bytes([kind]) if kind < 128 else bytes([kind & 0x7F | 0x80, kind >> 7])
        size = b""
        left = len(data)
        while True:
            size += bytes([left & 0x7F | (0x80 if left > 127 else 0)])
            left >>= 7
            if not left:
                return head + size + data

    def wide(text):
        return struct.pack("<I", len(text.encode("utf-16-le")) // 2) + text.encode("utf-16-le")

    strings, numbers = [], {}

    def string(text):
        if text not in numbers:
            numbers[text] = len(strings)
            strings.append(text)
        return numbers[text]

    def cell(column, value, is_next):
        style = 0
        if isinstance(value, datetime.date):
            value, style = (value - datetime.date(1899, 12, 30)).days, 1
        where = struct.pack("<I", style) if short and is_next else struct.pack("<II", column, style)
        more = 11 if short and is_next else 0
        if isinstance(value, str) and value in ("#N/A", "#DIV/0!"):
            return record(3 + more, where + bytes([{"#N/A": 0x2A, "#DIV/0!": 7}[value]]))
        if isinstance(value, str):
            return record(7 + more, where + struct.pack("<I", string(value)))
        if isinstance(value, int) and value < 1 << 29:
            return record(2 + more, where + struct.pack("<I", value << 2 | 2))
        return record(5 + more, where + struct.pack("<d", value))

    sheet = record(129) + record(148, struct.pack("<IIII", 0, len(rows), 0, 7)) + record(145)
    for number, row in enumerate([HEADINGS, *rows]):
        sheet += record(0, struct.pack("<IIH3sI", number, 0, 300, b"\0\0\0", 0))
        last = -1
        for column, text in enumerate(row):
            value = text if number == 0 else typed(column, text)
            if value != "":
                sheet += cell(column, value, column == last + 1 and last >= 0)
                last = column
    sheet += record(146) + record(130)
    book = (record(131) + record(153, struct.pack("<II", 0, 0) + wide("")) + record(143)
            + record(156, struct.pack("<II", 0, 1) + wide("rId1") + wide("Members")) + record(144) + record(132))
    shared = record(159, struct.pack("<II", len(strings), len(strings)))
    shared += b"".join(record(19, b"\0" + wide(text)) for text in strings) + record(160)
    format_of = lambda number: struct.pack("<HHHHH", 0, number, 0, 0, 0) + b"\0\0\0\0\x3f\0"
    styles = (record(278) + record(615, struct.pack("<I", 1)) + record(44, struct.pack("<H", 165) + wide("dd.mm.yyyy"))
              + record(616) + record(617, struct.pack("<I", 2)) + record(47, format_of(0)) + record(47, format_of(165))
              + record(618) + record(279))
    ns = "http://schemas.openxmlformats.org/package/2006"
    kinds = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
    types = "application/vnd.ms-excel."
    overrides = "".join(f'<Override PartName="/xl/{part}" ContentType="{types}{kind}"/>' for part, kind in [
        ("workbook.bin", "sheet.binary.macroEnabled.main"), ("worksheets/sheet1.bin", "worksheet"),
        ("sharedStrings.bin", "sharedStrings"), ("styles.bin", "styles")])
    with zipfile.ZipFile(here / name, "w", zipfile.ZIP_DEFLATED) as parts:
        parts.writestr("[Content_Types].xml", f'<Types xmlns="{ns}/content-types"><Default Extension="rels" ContentType='
                       f'"application/vnd.openxmlformats-package.relationships+xml"/>{overrides}</Types>')
        parts.writestr("_rels/.rels", f'<Relationships xmlns="{ns}/relationships"><Relationship Id="rId1" '
                       f'Type="{kinds}/officeDocument" Target="xl/workbook.bin"/></Relationships>')
        parts.writestr("xl/_rels/workbook.bin.rels", f'<Relationships xmlns="{ns}/relationships">' + "".join(
            f'<Relationship Id="rId{n}" Type="{kinds}/{kind}" Target="{target}"/>' for n, kind, target in [
                (1, "worksheet", "worksheets/sheet1.bin"), (2, "sharedStrings", "sharedStrings.bin"),
                (3, "styles", "styles.bin")]) + "</Relationships>")
        for part, content in [("workbook.bin", book), ("worksheets/sheet1.bin", sheet), ("sharedStrings.bin", shared),
                              ("styles.bin", styles)]:
            parts.writestr(f"xl/{part}", content)


assembled_xlsb("assembled.xlsb", short=False)
assembled_xlsb("assembled-short.xlsb", short=True)

# What LibreOffice reads of each, as it is stored: the tests compare.
for source in ["openpyxl.xlsx", "xlsxwriter.xlsx", "xlsxwriter-1904.xlsx", "libreoffice.ods", "pretty.ods", "libreoffice.xls",
               "assembled.xlsb", "assembled-short.xlsb"]:
    subprocess.run(["soffice", "--headless", "--convert-to", "csv:Text - txt - csv (StarCalc):44,34,76,1,,0,false,true,false",
                    "--outdir", made_in, str(here / source)], check=True, stdout=subprocess.DEVNULL)
    read = pathlib.Path(made_in, pathlib.Path(source).stem + ".csv").read_bytes()
    (here / (source + ".read.csv")).write_bytes(read)

# What only a workbook can have, in one: a first sheet that is none, hidden rows and columns, a filter, merged cells, an
# uncalculated formula, a number kept as text, an error.
book = openpyxl.Workbook()
book.active.title = "Read me"
book.active["A1"] = "Please fill the sheet Members."
sheet = book.create_sheet("Members")
sheet.append(HEADINGS)
for number in range(1, 9):
    sheet.append([number, f"Member {number}", datetime.date(2020, 1, number), number / 2, None, True, f"{number:05}", None])
sheet["A4"] = "3"
sheet["D5"] = "=A5/2"
sheet["D6"] = "#DIV/0!"
sheet["A7"].number_format = "0000"
sheet.row_dimensions[8].hidden = True
sheet.column_dimensions["E"].hidden = True
sheet.merge_cells("H2:H3")
sheet.auto_filter.ref = "A1:H9"
sheet.auto_filter.add_filter_column(5, ["TRUE"])
hidden = book.create_sheet("Old")
hidden.append(HEADINGS)
hidden.append([99, "Nobody", None, None, None, None, "00099", None])
hidden.sheet_state = "hidden"
book.save(here / "special.xlsx")

by_libreoffice("special.xlsx", "ods", "special.ods")
by_libreoffice("special.xlsx", "xls:MS Excel 97", "special.xls")

# Two sheets that fit.
book = openpyxl.Workbook()
for name in ("Members", "Members (2)"):
    sheet = book.create_sheet(name)
    sheet.append(HEADINGS)
    sheet.append([1, "Ada", None, None, None, None, "00001", None])
del book["Sheet"]
book.save(here / "unclear.xlsx")
