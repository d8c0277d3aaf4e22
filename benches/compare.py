#!/usr/bin/env python3
"""Times `tidy-gate check` beside a plain read of the same file, run by run in turn, and proves every count.

Usage: python3 benches/compare.py [ROWS] [PAIRS] [planted|clean|faulty|quoted|whole] [EXTRA ARGUMENT OF check ...]

Builds in release, writes the register to a temporary folder, and for one thread and for two prints the
median ratios to the plain read (processor seconds and wall seconds) and the peak memory.
"""
import json, os, pathlib, statistics, subprocess, sys, tempfile, time

project = pathlib.Path(__file__).resolve().parent.parent
rows = sys.argv[1] if len(sys.argv) > 1 else "1000000"
pairs = int(sys.argv[2]) if len(sys.argv) > 2 else 9
kind = sys.argv[3] if len(sys.argv) > 3 else "planted"
extra = sys.argv[4:]
built = project / "target" / "release"
subprocess.run(["cargo", "build", "--release", "--workspace", "--locked", "--quiet"], cwd=project, check=True)


def run(words, **options):
    began = time.perf_counter()
    child = subprocess.Popen(words, **options)
    _, status, usage = os.wait4(child.pid, 0)
    child.returncode = os.waitstatus_to_exitcode(status)
    wall = time.perf_counter() - began
    return {"cpu": usage.ru_utime + usage.ru_stime, "wall": wall, "peak": usage.ru_maxrss / 1024}


with tempfile.TemporaryDirectory() as folder:
    subprocess.run([built / "make-register", folder, rows, kind], check=True)
    csv, record = f"{folder}/register.csv", f"{folder}/register.record.toml"
    check = [built / "tidy-gate", "check", csv, "--record", record, "--today", "2026-11-25"]

    if kind == "whole":
        check += ["--reference", f"site={folder}/sites.csv:code"]
    report = json.loads(subprocess.run([*check, "--format", "json"], capture_output=True).stdout)
    truth = json.loads(pathlib.Path(folder, "truth.json").read_text())
    # Suspicions may come by chance: a tree can have been planted on 1 January 1900.
    stops = [total for total in report["totals"] if total["level"] == "stop"]
    found = {f"{total['code']} {total['field']}": total["count"] for total in stops}
    assert found == truth["totals"], (found, truth["totals"])
    assert (report["counts"]["rows"], report["counts"]["held"]) == (truth["rows"], truth["held"]), report["counts"]
    print(f"{int(rows):,} rows ({kind}), {os.path.getsize(csv) / 1e6:.0f} MB: every count is exact")

    quiet = {"stdout": subprocess.DEVNULL}
    for threads in ("1", "2"):
        ours, plain = [], []
        for _ in range(pairs):
            words = [*check, "--threads", threads, *(word.replace("FOLDER", folder) for word in extra)]
            ours.append(run(words, **quiet))
            plain.append(run([built / "plain-read", csv], **quiet))
        middle = lambda values: statistics.median(values)
        ratio = lambda key: middle([a[key] / b[key] for a, b in zip(ours, plain)])
        print(
            f"threads {threads}: cpu {ratio('cpu'):.2f}, wall {ratio('wall'):.2f} of the plain read "
            f"(best wall {min(a['wall'] / b['wall'] for a, b in zip(ours, plain)):.2f}); "
            f"cpu {middle([a['cpu'] for a in ours]):.2f} s beside {middle([b['cpu'] for b in plain]):.2f} s, "
            f"wall {middle([a['wall'] for a in ours]):.2f} s beside {middle([b['wall'] for b in plain]):.2f} s; "
            f"peak {max(a['peak'] for a in ours):.0f} MB"
        )
