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
import subprocess
import sys
import zipfile

import openpyxl
import xlsxwriter

here = pathlib.Path(__file__).parent
sys.path.insert(0, str(here.parent / "dresses"))
os.environ["PYTHONDONTWRITEBYTECODE"] = "1"
sys.dont_write_bytecode = True
from make import HEADINGS, rows  # noqa: E402

NO, JOINED, FEE = 0, 2, 3


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
subprocess.run(["soffice", "--headless", "--convert-to", "xlsx:Calc MS Excel 2007 XML", "--outdir", "/tmp/books-out",
                str(here / "xlsxwriter.xlsx")], check=True, stdout=subprocess.DEVNULL)
(here / "libreoffice.xlsx").write_bytes(pathlib.Path("/tmp/books-out/xlsxwriter.xlsx").read_bytes())


def by_libreoffice(source, form, name):
    """The workbook saved again in another form."""
    subprocess.run(["soffice", "--headless", "--convert-to", form, "--outdir", "/tmp/books-out", str(here / source)],
                   check=True, stdout=subprocess.DEVNULL)
    made = pathlib.Path("/tmp/books-out", pathlib.Path(source).stem + "." + form.split(":")[0])
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
