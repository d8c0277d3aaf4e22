#!/usr/bin/env python3
"""Fills the demo's template with the rows of ward 3, and has a spreadsheet program save it again.

Usage: python3 make.py PROGRAM   (needs openpyxl and LibreOffice; PROGRAM is the built tidy-gate)
"""
import csv
import datetime
import pathlib
import subprocess
import sys
import tempfile

import openpyxl

here = pathlib.Path(__file__).parent
demo = here.parents[4] / "demo"
DATES, NUMBERS = {"Planted on", "Inspected on", "Removal due"}, {"Position", "Girth (cm)", "Height (m)", "Stems"}

with tempfile.TemporaryDirectory() as folder:
    template = pathlib.Path(folder, "template.xlsx")
    subprocess.run([sys.argv[1], "template", demo / "tree.record.toml", "-o", template], check=True)
    book = openpyxl.load_workbook(template)
    sheet = book["Street tree"]
    headings = [cell.value for cell in sheet[1]]
    with open(demo / "ward-3-survey.csv", newline="", encoding="utf-8-sig") as file:
        rows = list(csv.reader(file))[1:]
    for at, row in enumerate(rows, start=2):
        for column, (heading, text) in enumerate(zip(headings, row, strict=True), start=1):
            if text == "":
                continue
            cell = sheet.cell(at, column)
            if heading in DATES:
                cell.value = datetime.date.fromisoformat(text)
                cell.number_format = "yyyy-mm-dd"
            elif heading in NUMBERS:
                cell.value = float(text) if "." in text else int(text)
            else:
                cell.value = text
    book.save(here / "filled.xlsx")
    for form in ("xlsx", "ods"):
        subprocess.run(
            ["soffice", f"-env:UserInstallation=file://{folder}/profile", "--headless", "--convert-to", form,
             "--outdir", folder, here / "filled.xlsx"], check=True, stdout=subprocess.DEVNULL)
        pathlib.Path(here, f"filled-resaved.{form}").write_bytes(pathlib.Path(folder, f"filled.{form}").read_bytes())
