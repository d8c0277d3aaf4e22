#!/usr/bin/env python3
"""Times `tidy-gate check` on one register in UTF-8, Windows-1252 and UTF-16, beside decoding the file alone.

Usage: python3 benches/encodings.py [ROWS] [PAIRS]

What another encoding adds to the check is told as a share of what decoding the same file alone takes: at most 1 is
wanted. Processor seconds, medians of runs in turn, one thread.
"""
import os, pathlib, statistics, subprocess, sys, tempfile

project = pathlib.Path(__file__).resolve().parent.parent
rows = sys.argv[1] if len(sys.argv) > 1 else "500000"
pairs = int(sys.argv[2]) if len(sys.argv) > 2 else 9
built = project / "target" / "release"
subprocess.run(["cargo", "build", "--release", "--workspace", "--locked", "--quiet"], cwd=project, check=True)


def seconds(words):
    child = subprocess.Popen(words, stdout=subprocess.DEVNULL)
    _, _, usage = os.wait4(child.pid, 0)
    return usage.ru_utime + usage.ru_stime


with tempfile.TemporaryDirectory() as folder:
    subprocess.run([built / "make-register", folder, rows, "clean"], check=True)
    # Some letters beyond ASCII in every third row.
    text = pathlib.Path(folder, "register.csv").read_text(encoding="utf-8").replace("pruned", "prunéd")
    names = {"utf-8": "utf-8", "windows-1252": "windows-1252", "utf-16le": "utf-16-le"}
    for name, codec in names.items():
        pathlib.Path(folder, f"{name}.csv").write_bytes(text.encode(codec))
    times = {}
    for _ in range(pairs):
        for name in names:
            check = [built / "tidy-gate", "check", f"{folder}/{name}.csv", "--record", f"{folder}/register.record.toml",
                     "--today", "2026-11-25", "--threads", "1"]
            times.setdefault(name, []).append(seconds(check))
            if name != "utf-8":
                times.setdefault(f"{name} alone", []).append(seconds([built / "plain-decode", f"{folder}/{name}.csv", name]))
    middle = {name: statistics.median(values) for name, values in times.items()}
    for name in names:
        print(f"{name}: {middle[name]:.3f} s")
        if name != "utf-8":
            more, alone = middle[name] - middle["utf-8"], middle[f"{name} alone"]
            print(f"  {more:.3f} s more than UTF-8, {more / alone:.2f} of decoding alone ({alone:.3f} s)")
