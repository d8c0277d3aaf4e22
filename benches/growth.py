#!/usr/bin/env python3
"""How time and memory grow with what a file, a schema or a list holds: each shape at n, 2n and 4n.

Usage: growth.py [PROGRAM] [SHAPE...]     (default: target/release/tidy-gate, all shapes)

A line says the seconds of processor time and the megabytes at each size, and by how much the last doubling grew them.
Linear is 2.0; above 2.3, or above 300 MB at the largest size, a line is marked.
"""
import os, resource, subprocess, sys, tempfile, zipfile

ARGS = sys.argv[1:]
PROGRAM = os.path.abspath(ARGS[0]) if ARGS and os.path.exists(ARGS[0]) else os.path.abspath("target/release/tidy-gate")
WANTED = [arg for arg in ARGS if not os.path.exists(arg)]
FIELD = '[[field]]\nname = "{}"\nkind = "{}"\n'


def schema(fields, head="", tail=""):
    return 'format = 1\nrecord = "t"\n' + head + "".join(fields) + tail


def write(name, text):
    with open(name, "w", encoding="utf-8") as file:
        file.write(text)


def plain(*names):
    return [FIELD.format(name, "text") for name in names]


def list_misses(n):
    """n values, and a near miss of each in n rows, all of them listed."""
    values = ", ".join('{ code = "species %06d" }' % i for i in range(n))
    write("r.toml", schema(plain("k") + [FIELD.format("p", "picklist") + 'picklist = "p"\n'], 'key = ["k"]\n',
                           "[picklist.p]\nvalues = [%s]\n" % values))
    write("t.csv", "k,p\n" + "".join("%d,speciez %06d\n" % (i, i) for i in range(n)))
    return "check t.csv --record r.toml --findings f.csv --force"


def few_words(n):
    """50 wrong words in n rows, all of them listed."""
    values = ", ".join('{ code = "S%03d", label = "Species number %d" }' % (i, i) for i in range(500))
    write("r.toml", schema(plain("k") + [FIELD.format("p", "picklist") + 'picklist = "p"\n'], 'key = ["k"]\n',
                           "[picklist.p]\nvalues = [%s]\n" % values))
    write("t.csv", "k,p\n" + "".join("%d,Species numbr %d\n" % (i, i % 50) for i in range(n)))
    return "check t.csv --record r.toml --findings f.csv --force"


def reference_misses(n):
    """n keys, and a slip of each in n rows."""
    write("s.csv", "site\n" + "".join("W%07d\n" % i for i in range(n)))
    write("r.toml", schema(plain("k") + [FIELD.format("s", "reference") + 'to = "site"\n'], 'key = ["k"]\n'))
    write("t.csv", "k,s\n" + "".join("%d,w%07d\n" % (i, i) for i in range(n)))
    return "check t.csv --record r.toml --reference site=s.csv:site --findings f.csv --force"


def near_headings(n, command):
    write("r.toml", schema(plain(*("measure %d of the trunk" % i for i in range(n)))))
    write("t.csv", ",".join("mesure %d of trunk" % i for i in range(n)) + "\n" + ",".join("1" for _ in range(n)) + "\n")
    return command + " t.csv --record r.toml"


def wide_faults(n):
    """n columns, every cell faulty."""
    write("r.toml", schema([FIELD.format("c%d" % i, "integer") for i in range(n)]))
    write("t.csv", ",".join("c%d" % i for i in range(n)) + "\n" + (",".join("x" for _ in range(n)) + "\n") * 60)
    return "check t.csv --record r.toml"


def template(n):
    write("r.toml", schema(plain(*("field %d" % i for i in range(n)))))
    return "template r.toml -o t.xlsx --force"


def draft_columns(n):
    write("t.csv", ",".join("column %d" % i for i in range(n)) + "\n" + (",".join("7" for _ in range(n)) + "\n") * 5)
    return "draft t.csv --max-columns 65534"


def draft_enumeration(n):
    write("t.sql", "CREATE TABLE t (k INT PRIMARY KEY, p TEXT CHECK (p IN (%s)));" % ", ".join("'v%d'" % i for i in range(n)))
    return "draft t.sql --table t"


def long_headings(n):
    write("t.csv", "a" * n + "," + "b" * n + "\n1,2\n")
    return "draft t.csv"


def picklist(n):
    write("p.csv", "code,name\n" + "".join("C%07d,Name of %d\n" % (i, i) for i in range(n)))
    write("r.toml", schema(plain("k") + [FIELD.format("p", "picklist") + 'picklist = "p"\n'], 'key = ["k"]\n',
                           '[picklist.p]\nfile = "p.csv"\ncode = "code"\nlabel = "name"\n'))
    write("t.csv", "k,p\n1,C0000001\n")
    return "check t.csv --record r.toml"


def reference_keys(n):
    write("s.csv", "site\n" + "".join("W%09d\n" % i for i in range(n)))
    write("r.toml", schema(plain("k") + [FIELD.format("s", "reference") + 'to = "site"\n'], 'key = ["k"]\n'))
    write("t.csv", "k,s\n1,W000000001\n")
    return "check t.csv --record r.toml --reference site=s.csv:site"


def combinations(n):
    write("c.csv", "a,b\n" + "".join("a%d,b%d\n" % (i, i) for i in range(n)))
    write("r.toml", schema(plain("k", "a", "b"), 'key = ["k"]\n',
                           '[[combination]]\nname = "pairs"\nfields = ["a", "b"]\nfile = "c.csv"\n'))
    write("t.csv", "k,a,b\n" + "".join("%d,a%d,b%d\n" % (i, i, i + 1) for i in range(n // 20)))
    return "check t.csv --record r.toml"


def json_keys(n):
    write("t.json", "[{%s}]" % ",".join('"key %d":1' % i for i in range(n)))
    return "peek t.json --max-columns 65534"


def ndjson_keys(n):
    """n records, each with a key of its own: n columns."""
    write("t.ndjson", "".join('{"k":%d,"key %d":1}\n' % (i, i) for i in range(n)))
    return "peek t.ndjson --max-columns 65534"


def hidden_columns(n):
    columns = "".join('<col min="%d" max="16384" hidden="1"/>' % (i % 16000 + 1) for i in range(n))
    book(columns, '<row r="1"><c r="A1"><v>1</v></c></row>')
    return "peek t.xlsx"


def book(columns, rows):
    kind = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
    with zipfile.ZipFile("t.xlsx", "w", zipfile.ZIP_DEFLATED) as parts:
        parts.writestr("[Content_Types].xml", "<Types/>")
        parts.writestr("xl/workbook.xml", '<workbook xmlns:r="%s"><sheets><sheet name="S" sheetId="1" r:id="r1"/></sheets></workbook>' % kind)
        parts.writestr("xl/_rels/workbook.xml.rels", '<Relationships><Relationship Id="r1" Type="%s/worksheet" Target="worksheets/sheet1.xml"/></Relationships>' % kind)
        parts.writestr("xl/worksheets/sheet1.xml", "<worksheet><cols>%s</cols><sheetData>%s</sheetData></worksheet>" % (columns, rows))


def many_sheets(n):
    """An ODS of n sheets, of which the last fits."""
    sheet = '<table:table table:name="S%d"><table:table-row><table:table-cell office:value-type="string"><text:p>%s</text:p></table:table-cell></table:table-row></table:table>'
    sheets = "".join(sheet % (i, "k" if i == n - 1 else "x") for i in range(n))
    with zipfile.ZipFile("t.ods", "w", zipfile.ZIP_DEFLATED) as parts:
        parts.writestr("META-INF/manifest.xml", "<manifest/>")
        parts.writestr("content.xml", "<office:document-content><office:body><office:spreadsheet>%s</office:spreadsheet></office:body></office:document-content>" % sheets)
    write("r.toml", schema(plain("k"), 'key = ["k"]\n'))
    return "check t.ods --record r.toml"


def faults(n):
    write("r.toml", schema([FIELD.format("same", "text") + 'pattern = "(["\n' for _ in range(n)]))
    write("t.csv", "k\n1\n")
    return "check t.csv --record r.toml"


def sound_rows(n):
    write("r.toml", schema(plain("k", "a", "b"), 'key = ["k"]\n'))
    write("t.csv", "k,a,b\n" + "".join("%d,some words here,and others\n" % i for i in range(n)))
    return "check t.csv --record r.toml --mode update"


def equal_keys(n):
    """n rows of one key."""
    write("r.toml", schema(plain("k", "a"), 'key = ["k"]\n'))
    write("t.csv", "k,a\n" + "".join("HT-1,words %d\n" % i for i in range(n)))
    return "check t.csv --record r.toml"


def near_keys(n):
    """n rows whose keys differ in case from those of as many others."""
    write("r.toml", schema(plain("k", "a"), 'key = ["k"]\n'))
    write("t.csv", "k,a\n" + "".join("%s-%d,words\n" % ("ht" if i % 2 else "HT", i // 2) for i in range(n)))
    return "check t.csv --record r.toml"


def alike_names(n):
    """n rows whose names are like one of a hundred, in another order of words."""
    write("r.toml", schema(plain("k", "a", "b"), 'key = ["k"]\nalike = ["a", "b"]\n'))
    write("t.csv", "k,a,b\n" + "".join("%d,%s,Mill %d Lane\n" % (i, "Ash Holt" if i % 2 else "Holt Ash", i % 100) for i in range(n)))
    return "check t.csv --record r.toml"


def one_record(n):
    """A record of n lines."""
    lines = '[lines]\nheader = ["k", "a"]\nkey = ["line"]\n'
    write("r.toml", schema(plain("k", "a", "line", "b"), 'key = ["k"]\n', lines))
    write("t.csv", "k,a,line,b\n" + "".join("1,same,%d,words\n" % i for i in range(n)))
    return "check t.csv --record r.toml"


def references(n):
    """n sound references to as many keys."""
    write("s.csv", "site\n" + "".join("W%09d\n" % i for i in range(n)))
    write("r.toml", schema(plain("k") + [FIELD.format("s", "reference") + 'to = "site"\n'], 'key = ["k"]\n'))
    write("t.csv", "k,s\n" + "".join("%d,W%09d\n" % (i, i * 7 % n) for i in range(n)))
    return "check t.csv --record r.toml --reference site=s.csv:site"


def rules(n):
    """n rules, some of them broken."""
    tail = "".join('[[rule]]\nname = "rule %d"\nmust = "a < b + %d"\n' % (i, i) for i in range(n))
    write("r.toml", schema(plain("k") + [FIELD.format(name, "integer") for name in "ab"], 'key = ["k"]\n', tail))
    write("t.csv", "k,a,b\n" + "".join("%d,%d,%d\n" % (i, i % 50 + n // 2, i % 40) for i in range(5_000)))
    return "check t.csv --record r.toml"


def sound_columns(n):
    """n columns of numbers."""
    write("r.toml", schema([FIELD.format("c%d" % i, "integer") for i in range(n)]))
    write("t.csv", ",".join("c%d" % i for i in range(n)) + "\n" + "".join(",".join(str(i + j) for i in range(n)) + "\n" for j in range(1_000)))
    return "check t.csv --record r.toml"


def long_cells(n):
    """Ten cells of n bytes each, one of them too long."""
    write("r.toml", schema(plain("k") + [FIELD.format("a", "text") + "length = { max = %d }\n" % (n - 1), FIELD.format("b", "text")], 'key = ["k"]\n'))
    write("t.csv", "k,a,b\n" + "".join("%d,%s,%s\n" % (i, "word " * (n // 5), "é" * (n // 2)) for i in range(5)))
    return "check t.csv --record r.toml --ready ready.csv --held held.csv --force"


def commas(n):
    write("t.csv", "k,a\n1," + "," * n + "\n")
    write("r.toml", schema(plain("k", "a"), 'key = ["k"]\n'))
    return "check t.csv --record r.toml"


SHAPES = {
    "list misses": (list_misses, 50_000), "few wrong words": (few_words, 50_000),
    "reference misses": (reference_misses, 5_000), "near headings, check": (lambda n: near_headings(n, "check"), 500),
    "near headings, match": (lambda n: near_headings(n, "match"), 500), "faulty columns": (wide_faults, 4_000),
    "template": (template, 2_000), "draft, columns": (draft_columns, 16_000),
    "draft, enumeration": (draft_enumeration, 25_000), "draft, long headings": (long_headings, 250_000),
    "picklist": (picklist, 100_000), "reference keys": (reference_keys, 500_000), "combinations": (combinations, 50_000),
    "keys of an object": (json_keys, 16_000), "keys of records": (ndjson_keys, 4_000),
    "hidden columns": (hidden_columns, 50_000), "sheets": (many_sheets, 500), "faults of a schema": (faults, 2_500),
    "keys all equal": (equal_keys, 250_000), "keys nearly equal": (near_keys, 250_000), "names alike": (alike_names, 250_000),
    "lines of a record": (one_record, 250_000), "references": (references, 250_000), "rules": (rules, 125),
    "sound columns": (sound_columns, 500), "long cells": (long_cells, 1_000_000),
    "sound rows": (sound_rows, 500_000), "commas in a row": (commas, 4_000_000),
}


def run(words):
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    child = subprocess.Popen([PROGRAM] + words.split(), stdout=subprocess.DEVNULL, stderr=subprocess.PIPE)
    told = child.stderr.read().decode("utf-8", "replace")
    _, status, usage = os.wait4(child.pid, 0)
    code = os.waitstatus_to_exitcode(status)
    if code not in (0, 1, 2):
        print("  ended with", code, told[:300])
    return usage.ru_utime + usage.ru_stime, usage.ru_maxrss / 1024, code


def made(make, size):
    """Makes the files in a process of its own: what this one holds would count as the program's memory. Gives the words."""
    inward, outward = os.pipe()
    child = os.fork()
    if child == 0:
        os.write(outward, make(size).encode())
        os._exit(0)
    os.close(outward)
    words = os.read(inward, 4096).decode()
    os.close(inward)
    os.waitpid(child, 0)
    return words


def main():
    marked = 0
    print("%-22s %26s %26s   %s" % ("", "seconds at n, 2n, 4n", "MB", "last doubling"))
    for name, (make, n) in SHAPES.items():
        if WANTED and not any(word in name for word in WANTED):
            continue
        seconds, memory, codes = [], [], set()
        for size in (n, 2 * n, 4 * n):
            with tempfile.TemporaryDirectory() as folder:
                os.chdir(folder)
                found = run(made(make, size))
                os.chdir("/")
            seconds.append(found[0]); memory.append(found[1]); codes.add(found[2])
        times, grows = seconds[2] / max(seconds[1], 0.01), memory[2] / memory[1]
        # What takes no time at all says nothing about its growth.
        bad = times > 2.3 and seconds[2] > 0.2 or memory[2] > 300
        marked += bad
        print("%-22s %8.2f %8.2f %8.2f %8.0f %8.0f %8.0f   x%.1f x%.1f  exit %s%s" % (
            name, *seconds, *memory, times, grows, "/".join(map(str, sorted(codes))), "  <--" if bad else ""), flush=True)
    sys.exit(1 if marked else 0)


if __name__ == "__main__":
    main()
