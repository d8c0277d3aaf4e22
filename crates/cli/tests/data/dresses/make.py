#!/usr/bin/env python3
"""Writes one table of 40 rows in every dress that delimited text arrives in: dialects, encodings, layouts.

Usage: python3 make.py   (in this folder; needs the package zstandard)

The tests check that each gives the same findings at the same cells, apart from what is special to its form. All of
it is invented.
"""
import gzip
import pathlib

import zstandard

here = pathlib.Path(__file__).parent
HEADINGS = ["Member no.", "Name", "Joined", "Fee", "Mail", "Paid", "Card", "Remark"]
NAMES = ["no", "name", "joined", "fee", "mail", "paid", "card", "remark"]

rows = []
for n in range(1, 41):
    rows.append([str(n), f"Member {n}", f"2019-{n % 12 + 1:02}-{n % 28 + 1:02}", f"{n}.5", f"m{n}@club.example",
                 "yes" if n % 3 else "no", f"{n:05}", ""])
NO, NAME, JOINED, FEE, MAIL, PAID, CARD, REMARK = range(8)
for row, column, text in [
    (1, NAME, "Bo, Jr.; twice | thrice"), (2, NAME, "Désirée Müller"), (2, REMARK, 'said "no"\nand left'), (3, NAME, ""),
    (4, JOINED, "31/12/2019"), (5, JOINED, "2019-02-30"), (6, JOINED, "43830"), (7, JOINED, "1900-01-01"),
    (8, FEE, "12.345"), (9, FEE, "free"), (10, FEE, "99999"), (11, MAIL, "bo@club"), (12, PAID, "maybe"),
    (13, CARD, "14"), (14, CARD, "A0015"), (15, REMARK, "TBC"), (16, REMARK, "=1+1"), (17, REMARK, "a  b"),
    (18, REMARK, "a\u00a0b"), (19, REMARK, " outer "), (20, REMARK, "#N/A"), (21, REMARK, "1.23E+15"),
    (22, NO, "22.0"), (23, NO, "12"), (24, NO, ""), (25, NO, "99999"), (26, REMARK, "cafÃ©"), (27, REMARK, "so\u00adrt"),
    (28, REMARK, "bell\u0007"), (29, FEE, "#DIV/0!"), (30, NAME, "A name that is far too long"), (31, REMARK, "£ 5 – naïve “x”"),
]:
    rows[row][column] = text


def text(rows, headings=True, delimiter=",", line="\r\n", quoted=False, above=(), between=(), below=()):
    def cell(value):
        if quoted or any(c in value for c in (delimiter, '"', "\n", "\r")):
            return '"' + value.replace('"', '""').replace("\n", line) + '"'
        return value

    lines = list(above)
    if headings:
        lines.append(delimiter.join(cell(value) for value in HEADINGS))
    lines += [delimiter.join(cell(value) for value in row) for row in [*between, *rows, *below]]
    return line.join(lines) + line


def write(name, content, encoding="utf-8"):
    content = content if isinstance(content, bytes) else content.encode(encoding)
    (here / name).write_bytes(content)


plain = text(rows)
# Encodings
write("utf-8.csv", plain)
write("utf-8-bom.csv", plain, "utf-8-sig")
write("utf-16le.csv", "\ufeff" + plain, "utf-16-le")
write("utf-16be.csv", "\ufeff" + plain, "utf-16-be")
write("utf-16le-unmarked.csv", plain, "utf-16-le")
write("utf-16be-unmarked.csv", plain, "utf-16-be")
write("windows-1252.csv", plain, "windows-1252")
write("gb18030.csv", plain, "gb18030")
# Dialects
write("semicolon.csv", text(rows, delimiter=";"), "windows-1252")
write("tab.tsv", "\ufeff" + text(rows, delimiter="\t"), "utf-16-le")
write("pipe.txt", text(rows, delimiter="|", line="\n"))
write("caret.txt", text(rows, delimiter="^", line="\n"))
write("sep-line.csv", "sep=;\r\n" + text(rows, delimiter=";"))
write("quoted.csv", text(rows, quoted=True))
write("line-feeds.csv", text(rows, line="\n"))
write("carriage-returns.csv", text(rows, line="\r"))
write("no-last-line-end.csv", plain[:-2])
write("packed.csv.gz", gzip.compress(plain.encode(), mtime=0))
write("packed.csv.zst", zstandard.compress(plain.encode("utf-16")))
# Layouts
write("title-above.csv", text(rows, above=["Members of the club", "as of 2026-11-25,,,", ""]))
write("names-and-units.csv", text(rows, between=[NAMES, ["", "", "(day)", "€", "", "", "", ""]]))
example = ["4711", "Ada Quill", "2020-02-29", "12.5", "a.quill@club.example", "", "00815", ""]
write("example-row.csv", text(rows, between=[NAMES, example]))
total = ["Total", "", "", "%.3f" % (sum(float(row[FEE]) for row in rows if row[FEE].replace(".", "").isdigit())), "", "", "", ""]
write("total-row.csv", text(rows, below=[total]))
write("blank-tail.csv", text(rows, below=[[""] * 8] * 3))
write("all-at-once.csv", text(rows, delimiter=";", above=["Members", "", "of the club;;"], between=[NAMES, example], below=[total, [""] * 8]),
      "windows-1252")
write("no-headings.csv", text(rows, headings=False))
