#!/usr/bin/env python3
"""The table of `docs/performance.md`: every check of a register beside a plain read of it, run by run in turn.

Usage: python3 benches/table.py [--rows N] [--pairs N] [--long] [--register FOLDER] [--program FILE] [--only NAME,NAME] [--check|--write]

Without a register the one of this project is made, with `--long` that with longer texts. A folder must hold one CSV beside `sites.csv` and `species.csv`, and
one record schema. Each line is the median of the pairs: processor time and wall time beside those of the plain read (for
ready and held rows: of a plain read and write), and the peak memory. `--check` runs each once on 2,000 rows and prints no
time: for seeing that it still works. `--write` puts the table into `docs/performance.md`.
"""
import argparse, json, os, pathlib, statistics, subprocess, sys, tempfile, time, tomllib

project = pathlib.Path(__file__).resolve().parent.parent
wanted = argparse.ArgumentParser()
wanted.add_argument("--rows", default=1_000_000, type=int)
wanted.add_argument("--pairs", default=7, type=int)
wanted.add_argument("--register", type=pathlib.Path)
wanted.add_argument("--program", type=pathlib.Path)
wanted.add_argument("--long", action="store_true")
wanted.add_argument("--only", default="")
wanted.add_argument("--check", action="store_true")
wanted.add_argument("--write", action="store_true")
wanted = wanted.parse_args()
built = project / "target" / "release"
profile = ["--release"]
if wanted.check:
    wanted.rows, wanted.pairs = 2_000, 1
subprocess.run(["cargo", "build", *profile, "--workspace", "--locked", "--quiet"], cwd=project, check=True)
program = wanted.program or built / "tidy-gate"


def toml(value):
    """A value as TOML; JSON writes texts and numbers so."""
    if isinstance(value, dict):
        return "{ " + ", ".join(f"{json.dumps(key)} = {toml(one)}" for key, one in value.items()) + " }"
    return "[" + ", ".join(map(toml, value)) + "]" if isinstance(value, list) else json.dumps(value)


def written(schema):
    lines = [f"{key} = {toml(value)}" for key, value in schema.items() if key not in ("field", "rule", "picklist")]
    for table in ("field", "rule"):
        for one in schema.get(table, []):
            lines += [f"[[{table}]]", *(f"{key} = {toml(value)}" for key, value in one.items())]
    for name, values in schema.get("picklist", {}).items():
        lines += [f"[picklist.{name}]", *(f"{key} = {toml(value)}" for key, value in values.items())]
    return "\n".join(lines) + "\n"


def variants(schema, folder):
    """The record schemas and the plan that are measured."""
    def plain(field):
        kept = {key: field[key] for key in ("name", "required") if key in field}
        return {**kept, "kind": "text"} if field["kind"] == "reference" or "many" in field else field

    texts = [{"name": field["name"], "kind": "text"} for field in schema["field"]]
    key = next(field for field in schema["field"] if field["name"] == schema["key"][0])
    bare = {name: value for name, value in schema.items() if name != "rule"}
    all_ = {
        "whole": schema,
        "plain": {**bare, "field": [plain(field) for field in schema["field"]]},
        "texts": {**bare, "field": texts, "picklist": {}},
        "one": {**bare, "field": [key], "picklist": {}},
        "no key": {name: value for name, value in schema.items() if name != "key"},
    }
    for name, one in all_.items():
        (folder / f"{name.replace(' ', '-')}.record.toml").write_text(written(one))
    (folder / "update.plan.toml").write_text('format = 1\nrecord = "whole.record.toml"\nmode = "update"\n')


def run(words):
    began = time.perf_counter()
    child = subprocess.Popen(words, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    _, status, usage = os.wait4(child.pid, 0)
    child.returncode = os.waitstatus_to_exitcode(status)
    assert child.returncode < 2, (child.returncode, words)
    return usage.ru_utime + usage.ru_stime, time.perf_counter() - began, usage.ru_maxrss / 1024


def tell(told, line):
    told.append(line)
    print(line, flush=True)


def write(name, told):
    """Puts a table between its marks."""
    path = project / "docs" / "performance.md"
    text = path.read_text()
    begin, end = (f"<!-- {mark} {name} -->\n" for mark in ("table", "end"))
    head, rest = text.split(begin)
    path.write_text(head + begin + "\n".join(told) + "\n" + end + rest.split(end)[1])


def measure(folder, table, code):
    reference = ["--reference", f"site={folder}/sites.csv:{code}"]
    record = lambda name: ["--record", folder / f"{name}.record.toml"]
    outputs = ["--ready", folder / "out-ready.csv", "--held", folder / "out-held.csv", "--force"]
    read, copy = [built / "plain-read", table], [built / "plain-copy", table, folder / "out-copy.csv"]
    lines = [
        ("whole check", [*record("whole"), *reference], read, 1, 1.2),
        ("mode update", ["--plan", folder / "update.plan.toml", *reference], read, 1, 1.0),
        ("no rules, references, lists of values", record("plain"), read, 1, 0.9),
        ("all columns text, with a key", record("texts"), read, 1, 1.0),
        ("one field, the other columns without", record("one"), read, 1, 0.6),
        ("no key", [*record("no-key"), *reference], read, 1, 1.6),
        ("whole check, two threads", [*record("whole"), *reference], read, 2, 0.65),
        ("whole check, ready and held", [*record("whole"), *reference, *outputs], copy, 1, 1.3),
        ("ready and held, two threads", [*record("whole"), *reference, *outputs], copy, 2, 0.8),
    ]
    told = []
    if not wanted.check:
        tell(told, "| what | processor time | wall time | wanted | peak memory |\n|---|---|---|---|---|")
    for name, words, beside, threads, goal in lines:
        if wanted.only and not any(part in name for part in wanted.only.split(",")):
            continue
        check = [program, "check", table, *words, "--today", "2026-11-25", "--threads", str(threads)]
        pairs = [(run(check), run(beside)) for _ in range(wanted.pairs)]
        if wanted.check:
            print(f"{name}: runs")
            continue
        cpu, wall = (statistics.median(one[at] / other[at] for one, other in pairs) for at in (0, 1))
        peak = max(one[2] for one, _ in pairs)
        goal = f"{goal} of the wall" if threads > 1 else str(goal)
        tell(told, f"| {name} | {cpu:.2f} | {wall:.2f} | {goal} | {peak:.0f} MB |")
    return told


with tempfile.TemporaryDirectory() as name:
    folder = pathlib.Path(name)
    if wanted.register:
        own = {path.name: path for path in wanted.register.iterdir()}
        for shared in ("sites.csv", "species.csv"):
            (folder / shared).write_bytes(own[shared].read_bytes())
        table = max((path for path in own.values() if path.suffix == ".csv"), key=lambda path: path.stat().st_size)
        schema = tomllib.loads(next(path for key, path in own.items() if key.endswith("s.record.toml")).read_text())
    else:
        subprocess.run([built / "make-register", folder, str(wanted.rows), "long" if wanted.long else "whole"], check=True)
        table = folder / "register.csv"
        schema = tomllib.loads((folder / "register.record.toml").read_text())
    code = (folder / "sites.csv").read_text().split("\n", 1)[0].split(",")[0]
    variants(schema, folder)
    print(f"{table.name}, {table.stat().st_size / 1e6:.0f} MB, medians of {wanted.pairs} pairs")
    told = measure(folder, table, code)
    if wanted.write:
        write("other register" if wanted.register or wanted.long else "register", told)
