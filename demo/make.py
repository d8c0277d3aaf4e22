#!/usr/bin/env python3
"""Writes the demo files of the borough of Harrowmere: the same on every run. All of it is invented.

Usage: python3 demo/make.py   (in the project's folder; needs the package xlsxwriter)
"""
import csv
import datetime
import pathlib
import random
import re
import sqlite3
from decimal import Decimal

import xlsxwriter

here = pathlib.Path(__file__).parent
dice = random.Random(7)

SPECIES = [
    ("ACE-CAM", "Field maple"), ("ACE-PLA", "Norway maple"), ("ACE-PSE", "Sycamore"), ("AES-HIP", "Horse chestnut"),
    ("ALN-GLU", "Common alder"), ("BET-PEN", "Silver birch"), ("CAR-BET", "Hornbeam"), ("CAS-SAT", "Sweet chestnut"),
    ("COR-AVE", "Hazel"), ("CRA-MON", "Hawthorn"), ("FAG-SYL", "Beech"), ("FRA-EXC", "Ash"), ("GIN-BIL", "Maidenhair tree"),
    ("ILE-AQU", "Holly"), ("LIQ-STY", "Sweet gum"), ("MAL-SYL", "Crab apple"), ("PLA-HIS", "London plane"),
    ("POP-NIG", "Black poplar"), ("PRU-AVI", "Wild cherry"), ("PRU-SPI", "Blackthorn"), ("PYR-COM", "Pear"),
    ("QUE-ROB", "English oak"), ("ROB-PSE", "False acacia"), ("SAL-ALB", "White willow"), ("SOR-ARI", "Whitebeam"),
    ("SOR-AUC", "Rowan"), ("TAX-BAC", "Yew"), ("TIL-COR", "Small-leaved lime"), ("TIL-EUR", "Common lime"),
    ("ULM-PRO", "English elm"),
]
STREETS = ["MILL", "CANL", "ORCH", "STAT", "UPFD", "TANN"]
INSPECTORS = ["j.marsh", "a.okafor", "k.lindqvist"]
NOTES = ["", "", "", "pruned in spring", "crown lifted, deadwood removed", "leans over the path", "near the bus stop, light clearance low",
         "young tree, stake still in place"]
HEADINGS = ["Tag number", "Site", "Position", "Species", "Planted on", "Girth (cm)", "Height (m)", "Stems", "Cond.", "Inspected on",
            "Inspector", "Protected", "Removal due", "Notes"]


def tree(number, ward, position):
    year = dice.randint(1931, 2024)
    removal = "" if dice.random() > 0.06 else f"2027-{dice.randint(1, 12):02}-01"
    return [
        f"HT-{number:07}", f"W{ward:02}-{STREETS[position % 6]}", str(position // 6 + 1), dice.choice(SPECIES)[dice.random() < 0.3],
        f"{year}-{dice.randint(1, 12):02}-{dice.randint(1, 28):02}", f"{dice.randint(60, 2900) / 10:.1f}".replace(".0", ""),
        f"{dice.randint(25, 280) / 10:.1f}", str(dice.choice([1, 1, 1, 1, 2, 3])),
        dice.choice(["E", "G", "G", "F", "P", "Good", "Fair"]), f"2026-0{dice.randint(2, 4)}-{dice.randint(1, 28):02}",
        f"{dice.choice(INSPECTORS)}@trees.harrowmere.example", dice.choice(["Yes", "No", "No", "No"]), removal, dice.choice(NOTES),
    ]


def cell(text):
    return '"' + text.replace('"', '""') + '"' if any(c in text for c in ',"\n') else text


def write(name, lines, bom=False):
    text = ("\ufeff" if bom else "") + "".join(line + "\r\n" for line in lines)
    (here / name).write_text(text, encoding="utf-8", newline="")


def line(cells):
    return ",".join(cell(text) for text in cells)


(here / "species.csv").write_text("code,name\n" + "".join(f"{code},{name}\n" for code, name in SPECIES), newline="")

# Ward 3: sent by somebody careful.
sound = [tree(3_100 + n, 3, n) for n in range(148)]
write("ward-3-survey.csv", [line(HEADINGS)] + [line(row) for row in sound])

# Ward 7: sent by a contractor, put together from three sheets by hand.
TAG, SITE, POSITION, SPECIES_AT, PLANTED, GIRTH, HEIGHT, STEMS, CONDITION, INSPECTED, INSPECTOR, PROTECTED, REMOVAL, NOTE = range(14)
rows = [tree(4_200 + n, 7, n) for n in range(384)]
# One of the sheets wrote its dates as people there do.
for row in rows[120:214]:
    y, m, d = row[PLANTED].split("-")
    row[PLANTED] = f"{d}.{m}.{y}"
# One surveyor typed the girth with its unit.
for row in rows[260:281]:
    row[GIRTH] += " cm"
for at, word in {31: "Goood", 66: "v. poor", 67: "v. poor", 102: "Excelent", 233: "Not assessed", 301: "Not assessed", 340: "?"}.items():
    rows[at][CONDITION] = word
for at in (14, 15, 16, 250):
    rows[at][TAG] = rows[at][TAG].lower()
rows[88][TAG] = "HT-4288"
rows[190][TAG] = ""
for at in (45, 46, 47, 222, 318):
    rows[at][SITE] = ""
rows[54][GIRTH] = "14200"
rows[77][GIRTH] = "88.125"
rows[91][HEIGHT] = "tall"
rows[140][STEMS] = "2.0"
rows[141][STEMS] = "several"
rows[98][PLANTED] = "2021-06-31"
rows[99][PLANTED] = "1799-05-01"
rows[230][PLANTED] = "spring 1987"
rows[291][INSPECTED] = "2062-03-04"
rows[312][INSPECTOR] = "a.okafor@trees"
rows[313][INSPECTOR] = "a.okafor"
rows[170][PROTECTED] = "TPO 12"
rows[171][PROTECTED] = "see file"
rows[204][SPECIES_AT] = "QUE-RUB"
rows[205][SPECIES_AT] = "Silver brich"
rows[206][SPECIES_AT] = "FRA EXC"
rows[333][NOTE] = "Large cavity at 2 m on the north side. " * 6 + "Ask the owner before the next visit."
# What spreadsheets do to cells, and people.
rows[112][HEIGHT] = "#N/A"
for at in (150, 151, 152):
    rows[at][PLANTED] = str(27_761 + at)
rows[61][NOTE] = "tbc"
rows[62][NOTE] = '=HYPERLINK("http://trees.harrowmere.example/4262")'
rows[63][NOTE] = "leans  over the path"
rows[64][SITE] = "W07-\u041cILL"
rows[65][INSPECTOR] = rows[65][INSPECTOR] + " "
rows[20][POSITION] = rows[26][POSITION]
rows[20][SITE] = rows[26][SITE]
# What the fields of one row say of each other, and one row of another.
for at in (72, 73):
    rows[at][CONDITION] = "D"
rows[73][REMOVAL] = "2027-02-01"
rows[75][PLANTED] = "2026-05-20"
for at in (SITE, SPECIES_AT, PLANTED, GIRTH):
    rows[242][at] = rows[236][at]
# A block was pasted twice.
rows = rows[:360] + [list(row) for row in rows[340:352]] + rows[360:]
lines = []
for n, row in enumerate(rows):
    cells = row + [("JM", "AO", "KL")[min(n // 130, 2)]]
    text = line(cells)
    if n == 151:
        text = text.rsplit(",", 2)[0] + ',5" gap to wall,' + cells[-1]
    if n == 277:
        text = ",".join(cells[:NOTE]) + ",crown lifted, deadwood removed," + cells[-1]
    lines.append(text)
lines[215:215] = ["," * 14] * 2


def total(column):
    sum_ = sum((Decimal(row[column]) for row in rows if re.fullmatch(r"[0-9.]+", row[column])), Decimal())
    return str(sum_)


sums, units = [""] * 15, [""] * 15
sums[TAG], sums[GIRTH], sums[STEMS] = "Total", total(GIRTH), total(STEMS)
units[PLANTED], units[GIRTH], units[HEIGHT], units[STEMS] = "(date)", "cm", "m", "(number)"
lines += [line(sums)] + ["," * 14] * 3
headings = list(HEADINGS)
headings[INSPECTOR] = "Inspecter"
title = ["Survey of the street trees of Harrowmere, ward 7", "Greenline Tree Care, spring 2026"]
above = [line([text] + [""] * 14) for text in title] + ["," * 14]
write("ward-7-survey.csv", above + [line(headings + ["Surveyor"]), line(units)] + lines, bom=True)

# Ward 5: a workbook as a contractor sends it. A sheet of instructions comes first, an old copy is hidden; dates are real
# on most rows and text on some; rows are hidden behind a filter; one column was never calculated.
trees = [tree(5_300 + n, 5, n) for n in range(120)]
book = xlsxwriter.Workbook(here / "ward-5-survey.xlsx")
book.set_properties({"created": datetime.datetime(2026, 4, 30)})
day = book.add_format({"num_format": "dd/mm/yyyy"})
bold, title_format = book.add_format({"bold": True}), book.add_format({"bold": True, "font_size": 14})
notes = book.add_worksheet("Read me")
notes.write("A1", "Greenline Tree Care: survey of ward 5")
notes.write("A2", "The trees are on the next sheet. Please filter by condition.")
sheet = book.add_worksheet("Survey")
sheet.set_column(0, 14, 13)
sheet.merge_range("A1:D1", "Street trees of Harrowmere, ward 5", title_format)
for column, heading in enumerate(HEADINGS):
    sheet.write(2, column, heading, bold)
for number, row in enumerate(trees, start=3):
    for column, text in enumerate(row):
        if column in (PLANTED, INSPECTED, REMOVAL) and text:
            date = datetime.datetime.fromisoformat(text)
            if column == PLANTED and 40 <= number < 52:
                sheet.write_string(number, column, date.strftime("%d.%m.%Y"))
            else:
                sheet.write_datetime(number, column, date, day)
        elif column in (POSITION, GIRTH, HEIGHT, STEMS):
            (sheet.write_string if column == GIRTH and 20 <= number < 24 else sheet.write_number)(
                number, column, text if column == GIRTH and 20 <= number < 24 else float(text))
        elif text:
            sheet.write_string(number, column, text)
    if row[CONDITION] in ("P",):
        sheet.set_row(number, None, None, {"hidden": True})
sheet.write_formula(60, HEIGHT, "=F61/20", None, "")
sheet.write_formula(61, STEMS, "=1/0", None, "#DIV/0!")
sheet.write_string(70, SPECIES_AT, "Silver brich")
sheet.autofilter(2, 0, 122, len(HEADINGS) - 1)
sheet.filter_column(CONDITION, "x != P")
old = book.add_worksheet("Survey (old)")
old.write_row(0, 0, HEADINGS)
old.write_row(1, 0, trees[0])
old.hide()
book.close()

# Ward 9: sound rows under headings that somebody typed from memory.
dice = random.Random(9)
odd = ["Tree tag no", "Site", "Position", "Speces", "Girth", "Cond", "When seen", "E-mail", "Protected", "Surveyor"]
picked = [TAG, SITE, POSITION, SPECIES_AT, GIRTH, CONDITION, INSPECTED, INSPECTOR, PROTECTED]
lines = []
for n in range(24):
    row = tree(9_100 + n, 9, n)
    lines.append([row[at] for at in picked] + [dice.choice(["JM", "AO", "KL"])])
write("ward-9-survey.csv", [line(odd)] + [line(row) for row in lines])

# Ward 3: the inspections of some of its trees, several rows a tree. What is the same for all rows of a tree stands in
# the first of them alone.
dice = random.Random(3)
HAZARDS = ["Decay", "Leaning", "Roots in the pavement", "Touches wires", "Split fork"]
WORK = [("None", "0"), ("Prune", "2"), ("Prune", "3"), ("Fell", "1")]
HEAD = ["Tag number", "Site", "Visit", "Visited on", "Began at", "Hazards", "Crown left", "Work", "Urgency", "Order no", "Ordered on",
        "Contractor's phone", "Photo"]
lines = []
for n in range(60):
    row = sound[2 * n]
    visits = dice.choice([1, 1, 2, 2, 3])
    first = datetime.date(2026, 5, dice.randint(1, 28))
    for visit in range(1, visits + 1):
        work, urgency = dice.choice(WORK)
        day = first + datetime.timedelta(days=31 * (visit - 1))
        ordered = work != "None" and dice.random() < 0.5
        lines.append([
            *((row[TAG], row[SITE]) if visit == 1 else ("", "")), str(visit), day.strftime("%d/%m/%Y"),
            f"{dice.randint(8, 16)}:{dice.choice(['00', '15', '30', '45'])}", "; ".join(dice.sample(HAZARDS, dice.choice([0, 0, 1, 1, 2]))),
            f"{dice.choice([100, 95, 90, 80, 60])} %", work, urgency, *((f"WO-{dice.randint(2000, 2999)}", (day + datetime.timedelta(days=3)).strftime("%d/%m/%Y"))
            if ordered else ("", "")), dice.choice(["020 7946 0112", "+44 20 7946 0345", "(020) 7946 0567"]),
            f"https://trees.harrowmere.example/photo/{3000 + len(lines)}",
        ])
# What goes wrong where several rows are one thing.
begins = [at for at, row in enumerate(lines) if row[0]]
follows = [at for at, row in enumerate(lines) if not row[0]]
lines[follows[3]][2] = lines[follows[3] - 1][2]
lines[follows[9]][:2] = [next(row[0] for row in lines[follows[9]::-1] if row[0]), "W03-TANN"]
lines[follows[15]][2] = ""
lines[begins[20]][0] = "HT-0009912"
lines[begins[31]][5] = "Decay, Leaning"
lines[begins[33]][5] = "Decay; Decay"
lines[begins[36]][5] = "Rot"
lines[begins[40]][7:9] = ["Fell", "3"]
lines[begins[44]][9:11] = ["WO-2750", ""]
lines[begins[47]][11] = "7946 0112"
lines[begins[49]][12] = "photo 3090"
lines[begins[50]][4] = "half past nine"
lines[begins[52]][6] = "most of it"
lines[begins[54]][3] = "31/06/2026"
# A row of a tree went astray, and the first row lost its tag.
lines.append([lines[begins[5]][0], lines[begins[5]][1], "9", "02/07/2026", "9:00", "", "90 %", "None", "0", "", "", "020 7946 0112",
              "https://trees.harrowmere.example/photo/3999"])
lines[0][0] = lines[0][1] = ""
write("ward-3-inspections.csv", [line(HEAD)] + [line(row) for row in lines])

# The register as it stood last year: most trees of ward 3, a little thinner, some in another condition or with other notes.
LABELS = {label: code for code, label in SPECIES} | {"Good": "G", "Fair": "F"}
NAMES = ["tag_no", "site_code", "position_no", "species", "planted_on", "girth_cm", "height_m", "stems", "condition", "inspected_on",
         "inspector_email", "protected", "removal_due", "notes"]
SPECIES_AT, GIRTH_AT, CONDITION, INSPECTED_AT, PROTECTED, NOTES_AT = 3, 5, 8, 9, 11, 13
known = []
with open(here / "ward-3-survey.csv", encoding="utf-8-sig", newline="") as file:
    for n, row in enumerate(list(csv.reader(file))[1:]):
        if n % 19 == 7:
            continue
        row = [LABELS.get(text, text) if column in (SPECIES_AT, CONDITION) else text for column, text in enumerate(row)]
        row[GIRTH_AT] = str(max(Decimal("1"), Decimal(row[GIRTH_AT]) - Decimal(n % 3)))
        row[CONDITION] = "GEFP"[n % 4] if n % 9 == 0 else row[CONDITION]
        row[INSPECTED_AT] = row[INSPECTED_AT].replace("2026", "2025")
        row[NOTES_AT] = "" if n % 4 == 0 else row[NOTES_AT]
        row[PROTECTED] = {"Yes": "1", "No": "0"}[row[PROTECTED]]
        known.append([text or None for text in row])
(here / "registry.db").unlink(missing_ok=True)
registry = sqlite3.connect(here / "registry.db")
registry.execute("CREATE TABLE tree (tag_no TEXT PRIMARY KEY, site_code TEXT NOT NULL, position_no INTEGER, species TEXT, planted_on TEXT, "
                 "girth_cm REAL, height_m REAL, stems INTEGER, condition TEXT, inspected_on TEXT, inspector_email TEXT, "
                 "protected INTEGER, removal_due TEXT, notes TEXT) WITHOUT ROWID")
registry.executemany(f"INSERT INTO tree VALUES ({', '.join('?' * len(NAMES))})", known)
registry.commit()
registry.execute("VACUUM")
registry.close()

# After the load: the ready rows as the program wrote them (`check ward-3-survey.csv --record tree.record.toml --mode both
# --existing registry.db#tree --ready ward-3-ready.csv`), two of which did not arrive, and one value of another.
with open(here / "ward-3-ready.csv", encoding="utf-8", newline="") as file:
    ready = list(csv.reader(file))[1:]
after = {row[0]: [text or "" for text in row] for row in known}
new = [row for row in ready if row[0] not in after]
for row in ready:
    if row[0] in (new[2][0], new[5][0]):
        continue
    row = list(row)
    row[PROTECTED] = {"true": "1", "false": "0"}[row[PROTECTED]]
    there = after.get(row[0], [""] * len(row))
    after[row[0]] = [text or before for text, before in zip(row, there)]
after[ready[40][0]][CONDITION] = "G" if after[ready[40][0]][CONDITION] != "G" else "F"
write("registry-after.csv", [line(NAMES)] + [line(after[tag]) for tag in sorted(after)])

# A second round: rows that were held and mended, of which one takes a tag and one a place that the first round has used.
second = [list(new[0]), list(new[1]), list(new[3])]
second[0][1:3], second[0][13] = ["W03-MILL", "301"], "tag read off the photo"
second[1][0], second[1][13] = "HT-0003951", "seen twice"
second[2][0], second[2][1:3], second[2][4], second[2][5] = "HT-0003952", ["W03-CANL", "302"], "2019-11-20", "22.5"
write("ward-3-second-round.csv", [line(NAMES)] + [line(row) for row in second])

# What an inspector found at some trees: nothing but condition, girth and day may change, and one tag is not in the register.
found = []
for n, row in enumerate(known[4:60:5]):
    found.append([row[0], row[4] or "", str(Decimal(row[GIRTH_AT]) + n % 2), "GFP"[n % 3], f"2026-10-{n + 3:02}"])
found[3][1] = "1999-01-01"
found[7][0] = "HT-0003999"
write("ward-3-update.csv", [line(["tag_no", "planted_on", "girth_cm", "condition", "inspected_on"])] + [line(row) for row in found])
