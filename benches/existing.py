#!/usr/bin/env python3
"""What it costs to hold a file against the records that are there: in an export, in SQLite, in PostgreSQL.

Usage: existing.py [ROWS] [KEYS] [PAIRS] [PROGRAM]     (default: 1000000 5000000 3 target/release/tidy-gate)

Each line is the median of so many runs: seconds of processor time and wall time, megabytes at the highest, and the processor time
beside that of the same check without existing records; for databases also beside that plus a plain SELECT of the keys. PostgreSQL
is a server of its own, in a temporary folder, where its programs are installed (as root they run as the user postgres).
"""
import glob, os, resource, shutil, socket, sqlite3, statistics, subprocess, sys, tempfile, time

NUMBERS = [int(arg) for arg in sys.argv[1:] if arg.isdigit()]
ROWS, KEYS, PAIRS = (NUMBERS + [1_000_000, 5_000_000, 3][len(NUMBERS):])[:3]
OTHERS = [arg for arg in sys.argv[1:] if not arg.isdigit()]
PROGRAM = os.path.abspath(OTHERS[0] if OTHERS else "target/release/tidy-gate")
SCHEMA = 'format = 1\nrecord = "tree"\nkey = ["tag_no"]\n' + "".join(
    f'[[field]]\nname = "{name}"\nkind = "{kind}"\n'
    for name, kind in [("tag_no", "text"), ("site_code", "text"), ("girth_cm", "decimal"), ("planted_on", "date"), ("notes", "text")])


def cells(n):
    site = f"W{n % 90:02}-{n % 700:04}"
    return [f"HT-{n:07}", site, f"{n % 400}.{n % 10}", f"{1950 + n % 70}-{n % 12 + 1:02}-{n % 28 + 1:02}", "by the gate" if n % 3 else ""]


def run(command, **env):
    began, before = time.time(), resource.getrusage(resource.RUSAGE_CHILDREN)
    done = subprocess.run(["/usr/bin/time", "-f", "%M", *command], capture_output=True, text=True, env={**os.environ, **env})
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    if done.returncode not in (0, 1):
        sys.exit(f"{command}: {done.stderr}")
    used = after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime
    return used, time.time() - began, int(done.stderr.strip().splitlines()[-1]) / 1024


def median(command, **env):
    return [statistics.median(part) for part in zip(*(run(command, **env) for _ in range(PAIRS)))]


def server(folder):
    """Starts a server with the keys in it; gives its URL and how it is ended."""
    found = sorted(glob.glob("/usr/lib/postgresql/*/bin/initdb"))
    if not found:
        return None
    programs = os.path.dirname(found[-1])
    home = tempfile.mkdtemp(dir="/tmp")
    who = ["runuser", "-u", "postgres", "--"] if os.geteuid() == 0 else []
    if who:
        shutil.chown(home, "postgres")
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    call = lambda *words: subprocess.run([*who, *words], check=True, capture_output=True, cwd="/")
    call(f"{programs}/initdb", "-D", f"{home}/data", "-U", "reader", "--auth=trust", "--no-sync", "-E", "UTF8")
    options = f"-p {port} -c listen_addresses=127.0.0.1 -c unix_socket_directories={home} -c fsync=off"
    call(f"{programs}/pg_ctl", "-D", f"{home}/data", "-w", "-l", f"{home}/log", "-o", options, "start")
    url = f"postgres://reader@127.0.0.1:{port}/postgres"
    table = "CREATE TABLE tree (tag_no text PRIMARY KEY, site_code text, girth_cm numeric, planted_on date, notes text)"
    subprocess.run([f"{programs}/psql", url, "-qc", table], check=True)
    subprocess.run([f"{programs}/psql", url, "-qc", f"\\copy tree from '{folder}/export.csv' csv header"], check=True)

    def end():
        call(f"{programs}/pg_ctl", "-D", f"{home}/data", "-m", "immediate", "stop")
        shutil.rmtree(home, ignore_errors=True)

    return url, f"{programs}/psql", end


def main():
    folder = tempfile.mkdtemp()
    os.chdir(folder)
    with open("r.record.toml", "w") as file:
        file.write(SCHEMA)
    head = "tag_no,site_code,girth_cm,planted_on,notes\n"
    with open("export.csv", "w") as export, open("t.csv", "w") as rows:
        export.write(head)
        rows.write(head)
        step = max(1, KEYS // ROWS)
        for n in range(KEYS):
            export.write(",".join(cells(n)) + "\n")
            if n % step == 0 and n // step < ROWS:
                rows.write(",".join(cells(n)) + "\n")
    base = sqlite3.connect("r.db")
    base.execute("CREATE TABLE tree (tag_no TEXT PRIMARY KEY, site_code TEXT, girth_cm REAL, planted_on TEXT, notes TEXT) WITHOUT ROWID")
    base.executemany("INSERT INTO tree VALUES (?, ?, ?, ?, ?)", (cells(n) for n in range(KEYS)))
    base.commit()
    base.close()
    check = [PROGRAM, "check", "t.csv", "--record", "r.record.toml", "--mode", "update", "--threads", "1"]
    alone = median(check)
    print(f"{ROWS:,} rows, {KEYS:,} records; {PAIRS} runs; one thread\n")
    print("what                            user+sys    wall      MB    beside the check")
    show = lambda what, got, rest="": print(f"{what:30}  {got[0]:8.2f}  {got[1]:6.2f}  {got[2]:6.0f}  {rest}")
    show("the check without", alone)
    got = median([*check, "--existing", "export.csv"])
    show("an export", got, f"{got[0] / alone[0]:.2f}")
    plain = "import sqlite3\nfor row in sqlite3.connect('r.db').execute('SELECT tag_no FROM tree'): pass"
    keys = median([sys.executable, "-c", plain])
    show("SELECT of the keys, SQLite", keys)
    got = median([*check, "--existing", "r.db#tree"])
    show("SQLite", got, f"{got[0] / alone[0]:.2f}; beside it and the SELECT {got[0] / (alone[0] + keys[0]):.2f}")
    started = server(folder)
    if started:
        url, psql, end = started
        try:
            keys = median([psql, url, "-qAtc", "SELECT tag_no FROM tree", "-o", "/dev/null"])
            show("SELECT of the keys, PostgreSQL", keys)
            got = median([*check, "--existing", "env:REGISTRY_URL#tree"], REGISTRY_URL=url)
            show("PostgreSQL", got, f"{got[0] / alone[0]:.2f}; beside it and the SELECT {got[0] / (alone[0] + keys[0]):.2f}")
        finally:
            end()
    os.chdir("/")
    shutil.rmtree(folder)


main()
