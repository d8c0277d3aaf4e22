#!/usr/bin/env python3
"""The cost of each kind, and of rules, beside the bare split of the same rows.

Usage: python3 benches/kinds.py [ROWS] [PAIRS]

For each kind a file of ten columns of it is checked twice, in turn: with fields of the kind, and with the same columns
left out, which splits the rows and judges none. Prints processor time: nanoseconds a cell more than the split, and the
whole as a multiple of it. Rules are measured on the register, beside the same check without them.
"""
import os, pathlib, random, statistics, subprocess, sys, tempfile

project = pathlib.Path(__file__).resolve().parent.parent
rows = int(sys.argv[1]) if len(sys.argv) > 1 else 200_000
pairs = int(sys.argv[2]) if len(sys.argv) > 2 else 5
built = project / "target" / "release"
subprocess.run(["cargo", "build", "--release", "--workspace", "--locked", "--quiet"], cwd=project, check=True)
COLUMNS = 10
dice = random.Random(7)
two = lambda low, high: f"{dice.randint(low, high):02}"
day = lambda: f"{dice.randint(1900, 2020)}-{two(1, 12)}-{two(1, 28)}"
words = ["Mill Lane", "Canal Row", "Orchard Street", "pruned in spring", "leans over the path", "Café Row"]
KINDS = {
    "text": ("kind = \"text\"\nlength = { max = 60 }", lambda: dice.choice(words)),
    "text with a pattern": ("kind = \"text\"\npattern = \"HT-[0-9]{7}\"", lambda: f"HT-{dice.randrange(10**7):07}"),
    "integer": ("kind = \"integer\"\nrange = { min = 1, max = 99999 }", lambda: str(dice.randint(1, 90000))),
    "decimal": ("kind = \"decimal\"\ndigits = { before = 4, after = 2 }", lambda: f"{dice.randint(1, 999)}.{two(0, 99)}"),
    "boolean": ("kind = \"boolean\"", lambda: dice.choice(["yes", "no", "true", "N"])),
    "date": ("kind = \"date\"\nrange = { min = \"1850-01-01\", max = \"today\" }", day),
    "date, dd/MM/yyyy": ("kind = \"date\"\ndates = [\"dd/MM/yyyy\"]", lambda: f"{two(1, 28)}/{two(1, 12)}/2019"),
    "date, month names": ("kind = \"date\"\ndates = [\"d MMM yyyy\"]", lambda: f"{dice.randint(1, 28)} May {dice.randint(1900, 2020)}"),
    "time": ("kind = \"time\"", lambda: f"{two(0, 23)}:{two(0, 59)}"),
    "datetime": ("kind = \"datetime\"", lambda: f"{day()}T{two(0, 23)}:{two(0, 59)}:00Z"),
    "picklist": ("kind = \"picklist\"\npicklist = \"species\"", lambda: f"SP-{dice.randrange(120):03}"),
    "picklist, several": (
        "kind = \"picklist\"\npicklist = \"species\"\nmany = { separator = \";\" }",
        lambda: ";".join(f"SP-{n:03}" for n in dice.sample(range(120), dice.randint(1, 3))),
    ),
    "reference": ("kind = \"reference\"\nto = \"site\"", lambda: f"W{dice.randrange(2000):04}-X"),
    "email": ("kind = \"email\"", lambda: f"{dice.choice('jakm')}.marsh{dice.randrange(999)}@ward-7.harrowmere.example"),
    "phone": ("kind = \"phone\"\nregion = \"GB\"", lambda: f"020 7946 0{dice.randrange(1000):03}"),
    "url": ("kind = \"url\"", lambda: f"https://trees.example/ht/{dice.randrange(10**6)}"),
    "uuid": ("kind = \"uuid\"", lambda: f"{dice.randrange(16**8):08x}-0000-4000-8000-{dice.randrange(16**12):012x}"),
}
LISTS = "[picklist.species]\nvalues = [" + ", ".join(f"{{ code = \"SP-{n:03}\" }}" for n in range(120)) + "]\n"


def seconds(words):
    child = subprocess.Popen(words, stdout=subprocess.DEVNULL)
    _, status, usage = os.wait4(child.pid, 0)
    child.returncode = os.waitstatus_to_exitcode(status)
    assert child.returncode < 2, words
    return usage.ru_utime + usage.ru_stime


def compare(one, other):
    """The medians of both, run in turn."""
    found = [(seconds(one), seconds(other)) for _ in range(pairs)]
    return [statistics.median(side) for side in zip(*found)]


with tempfile.TemporaryDirectory() as name:
    folder = pathlib.Path(name)
    (folder / "sites.csv").write_text("code\n" + "".join(f"W{n:04}-X\n" for n in range(2000)))
    columns = [f"c{n}" for n in range(COLUMNS)]
    (folder / "bare.record.toml").write_text("format = 1\nrecord = \"t\"\nkey = [\"n\"]\n[[field]]\nname = \"n\"\nkind = \"integer\"\n")
    print(f"{rows:,} rows of {COLUMNS} columns of each kind; processor time, one thread, medians of {pairs}")
    print(f"{'kind':22} {'ns a cell':>10} {'of the split':>13}")
    for kind, (keys, value) in KINDS.items():
        (folder / "kind.record.toml").write_text(
            # `alike` names a field without a column, so that no likely duplicates are looked for.
            "format = 1\nrecord = \"t\"\nkey = [\"n\"]\nalike = [\"n\", \"m\"]\n[[field]]\nname = \"n\"\nkind = \"integer\"\n"
            "[[field]]\nname = \"m\"\nkind = \"integer\"\n"
            + "".join(f"[[field]]\nname = \"{name}\"\n{keys}\n" for name in columns)
            + LISTS
        )
        table = folder / "table.csv"
        with table.open("w") as file:
            file.write("n," + ",".join(columns) + "\n")
            for n in range(rows):
                file.write(f"{n}," + ",".join(value() for _ in columns) + "\n")
        check = lambda record: [built / "tidy-gate", "check", table, "--record", folder / record, "--threads", "1", "--format", "json"]
        reference = ["--reference", f"site={folder}/sites.csv:code"] if kind == "reference" else []
        judged, split = compare([*check("kind.record.toml"), *reference], check("bare.record.toml"))
        print(f"{kind:22} {(judged - split) * 1e9 / rows / COLUMNS:10.0f} {judged / split:13.2f}", flush=True)

    subprocess.run([built / "make-register", folder, str(rows)], check=True)
    schema = (folder / "register.record.toml").read_text()
    rule = lambda n, keys: f"\n[[rule]]\nname = \"rule {n}\"\n{keys}\n"
    RULES = {
        "two days": rule(1, "must = \"inspected_on >= planted_on\""),
        "a code and a field": rule(1, "when = \"condition = 'P'\"\nrequire = [\"survey_no\"]"),
        "a number": rule(1, "must = \"stems <= 90\""),
        "two rules": rule(1, "must = \"inspected_on >= planted_on\"") + rule(2, "when = \"condition = 'P'\"\nrequire = [\"survey_no\"]"),
        "LIKE and LENGTH": rule(1, "must = \"site_code LIKE 'W%' AND LENGTH(street) < 99\""),
    }
    print(f"\n{'rules':22} {'ns a row':>10} {'of the check':>13}")
    (folder / "plain.record.toml").write_text(schema)
    for name, text in RULES.items():
        (folder / "rules.record.toml").write_text(schema + text)
        check = lambda record: [built / "tidy-gate", "check", folder / "register.csv", "--record", folder / record, "--threads", "1",
                                "--format", "json"]
        with_rules, without = compare(check("rules.record.toml"), check("plain.record.toml"))
        print(f"{name:22} {(with_rules - without) * 1e9 / rows:10.0f} {with_rules / without:13.2f}", flush=True)
