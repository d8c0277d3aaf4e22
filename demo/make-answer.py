"""The contractor's answer for ward 7: the marked workbook with its cells put right, saved by another program.

    tidy-gate mend ward-7-survey.csv --plan ward-7.plan.toml -o ward-7-mended.csv
    tidy-gate check ward-7-mended.csv --plan ward-7-words.plan.toml --marked ward-7-marked.xlsx
    python3 make-answer.py ward-7-marked.xlsx ward-7-answer.xlsx

Needs openpyxl.
"""

import sys

import openpyxl

CELLS = {
    "B51": "W07-MILL", "B52": "W07-MILL", "B53": "W07-ORCH", "B230": "W07-CANL", "B326": "W07-STAT",
    "C51": "401", "C52": "402", "C53": "403", "C230": "404", "C326": "405", "C32": "260",
    "F60": "142.0", "B70": "W07-MILL", "C70": "406", "M78": "2027-03-31", "E81": "2016-05-20", "F83": "88.1",
    "A94": "HT-0004288", "G97": "11.5", "E104": "2021-06-30", "E105": "1979-05-01", "G118": "9.5", "H147": "3",
    "E156": "1976-05-31", "E157": "1976-06-01", "E158": "1976-06-02", "L176": "yes", "L177": "no",
    "A196": "HT-0004390", "D210": "QUE-ROB", "E238": None, "I241": "Good", "I309": "Fair",
    "N285": "crown lifted, deadwood removed", "O285": "KL", "P285": None, "J299": "2026-03-04",
    "K320": "surveyor.two@arborline.example", "K321": "surveyor.two@arborline.example",
    "N341": "Large cavity at 2 m on the north side.", "I348": "Good",
}

marked, answer = sys.argv[1:3]
book = openpyxl.load_workbook(marked)
sheet = book["Data"]
for place, value in CELLS.items():
    sheet[place] = value
for row in range(268, 289):
    value = sheet[f"F{row}"].value
    if value and value.endswith(" cm"):
        sheet[f"F{row}"] = value[:-3]
# The rows that were pasted twice.
sheet.delete_rows(368, 12)
book.save(answer)
