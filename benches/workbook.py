#!/usr/bin/env python3
"""Times `tidy-gate check` on the register as an XLSX workbook, beside a plain read of its cells, run by run in turn; and with its
ready rows as a workbook, beside a plain read and write of all cells.

Usage: python3 benches/workbook.py [ROWS] [PAIRS]   (needs the package xlsxwriter)
"""
import csv, datetime, json, multiprocessing, os, pathlib, re, statistics, subprocess, sys, tempfile, time

import xlsxwriter

project = pathlib.Path(__file__).resolve().parent.parent
rows = sys.argv[1] if len(sys.argv) > 1 else "200000"
pairs = int(sys.argv[2]) if len(sys.argv) > 2 else 5
built = project / "target" / "release"
subprocess.run(["cargo", "build", "--release", "--workspace", "--locked", "--quiet"], cwd=project, check=True)


def make(folder):
    book = xlsxwriter.Workbook(f"{folder}/register.xlsx", {"constant_memory": False})
    sheet = book.add_worksheet("Register")
    day = book.add_format({"num_format": "yyyy-mm-dd"})
    for number, row in enumerate(csv.reader(open(f"{folder}/register.csv", newline=""))):
        for column, text in enumerate(row):
            if re.fullmatch(r"-?[0-9]+(\.[0-9]+)?", text):
                sheet.write_number(number, column, float(text))
            elif re.fullmatch(r"(19[0-9]{2}|20[0-9]{2})-(0[1-9]|1[0-2])-(0[1-9]|1[0-9]|2[0-8])", text):
                sheet.write_datetime(number, column, datetime.datetime.fromisoformat(text), day)
            elif text:
                sheet.write_string(number, column, text)
    book.close()


def run(words):
    began = time.perf_counter()
    child = subprocess.Popen(words, stdout=subprocess.DEVNULL)
    _, _, usage = os.wait4(child.pid, 0)
    return usage.ru_utime + usage.ru_stime, time.perf_counter() - began, usage.ru_maxrss / 1024


with tempfile.TemporaryDirectory() as folder:
    subprocess.run([built / "make-register", folder, rows, "planted"], check=True)
    # In a process of its own: what a child uses at most counts what its parent held.
    maker = multiprocessing.Process(target=make, args=(folder,))
    maker.start()
    maker.join()
    check = [built / "tidy-gate", "check", f"{folder}/register.xlsx", "--record", f"{folder}/register.record.toml",
             "--today", "2026-11-25"]
    report = json.loads(subprocess.run([*check, "--format", "json"], capture_output=True).stdout)
    print(f"{report['counts']['rows']:,} rows, {os.path.getsize(folder + '/register.xlsx') / 1e6:.0f} MB, "
          f"{report['counts']['held']:,} held")
    book, ready = f"{folder}/register.xlsx", ["--ready", f"{folder}/ready.xlsx", "--force"]
    for what, beside, more in (
        ("the plain read of its cells", [built / "plain-cells", book], []),
        ("a plain read and write of them", [built / "plain-book", book, f"{folder}/copy.xlsx"], ready),
    ):
        for threads in ("1", "2"):
            ours, plain = [], []
            for _ in range(pairs):
                ours.append(run([*check, *more, "--threads", threads]))
                plain.append(run(beside))
            ratio = lambda at: statistics.median(a[at] / b[at] for a, b in zip(ours, plain))
            print(f"threads {threads}: cpu {ratio(0):.2f}, wall {ratio(1):.2f} of {what}; cpu "
                  f"{statistics.median(a[0] for a in ours):.2f} s, peak {max(a[2] for a in ours):.0f} MB "
                  f"beside {max(b[2] for b in plain):.0f} MB")
