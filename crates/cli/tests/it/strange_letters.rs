//! Letters that command a terminal, turn the reading direction or are a formula to a spreadsheet: through every place that
//! text can come from, into every output.

use crate::tool::{Folder, Ran};
use serde_json::Value;

/// A title for the window, a colour by C1, a bell, marks of direction, lines of Unicode, letters that are not to be seen.
const STRANGE: &str =
    "x\u{1b}]0;owned\u{7}\u{9b}31m\u{85}\u{202e}evil\u{2066}\u{200f}\u{2028}\u{feff}\u{e0041}y";

/// The same without what TOML and file systems do not take as it stands.
const IN_TOML: &str =
    "x\\u001b]0;owned\\u0007\\u009b31m\\u0085\\u202eevil\\u2066\\u200f\\u2028\\ufeff\\U000e0041y";

fn is_strange(c: char) -> bool {
    (c.is_control() && c != '\n')
        || matches!(c, '\u{200b}'..='\u{200f}' | '\u{2028}'..='\u{202e}' | '\u{2060}'..='\u{206f}' | '\u{feff}' | '\u{e0000}'..='\u{e007f}')
}

fn is_clean(ran: &Ran, what: &str) {
    for (name, text) in [("standard output", &ran.out), ("standard error", &ran.err)] {
        let found: Vec<String> =
            text.chars().filter(|c| is_strange(*c)).map(|c| format!("U+{:04X}", u32::from(c))).collect();
        assert!(found.is_empty(), "{what}: {found:?} on {name}:\n{}", text.escape_debug());
    }
}

fn strange_folder() -> (Folder, String) {
    let folder = Folder::new();
    folder.write(
        "r.record.toml",
        format!(
            "format = 1\nrecord = \"t\"\nlabel = \"{IN_TOML}\"\nversion = \"{IN_TOML}\"\nkey = [\"k\"]\n\
             [[field]]\nname = \"k\"\nlabel = \"K {IN_TOML}\"\nkind = \"text\"\nhelp = \"{IN_TOML}\"\nrequired = true\n\
             [[field]]\nname = \"p\"\nalso = [\"P {IN_TOML}\"]\nkind = \"picklist\"\npicklist = \"l\"\nhelp = \"=1+1 {IN_TOML}\"\n\
             [[field]]\nname = \"n\"\nlabel = \"=cmd|' /C calc'!A0\"\nkind = \"text\"\nlength = {{ max = 3 }}\nhelp = \"@SUM(A1)\"\n\
             pattern = \"[a-z]*\"\npattern_says = \"letters {IN_TOML}\"\nexample = \"-1+1\"\n\
             [picklist.l]\nvalues = [{{ code = \"A\", label = \"{IN_TOML}\" }}, {{ code = \"+1\" }}]\n\
             [[rule]]\nname = \"rule {IN_TOML}\"\nwhen = \"n = 'zz'\"\nrequire = [\"p\"]\nmessage = \"says {IN_TOML}\"\n"
        ),
    );
    folder.write(
        "r.plan.toml",
        format!("format = 1\n[columns]\n\"odd {IN_TOML}\" = false\n[read]\nblank = [\"{IN_TOML}\"]\n"),
    );
    let file = format!("t{STRANGE}.csv").replace('\u{0}', "");
    folder.write(
        &file,
        format!("k,p,n,\"odd {STRANGE}\"\n\"{STRANGE}\",\"{STRANGE}\",\"{STRANGE}\",1\nb,,zz,=1+1\n"),
    );
    (folder, file)
}

#[test]
fn no_output_hands_strange_letters_to_a_terminal() {
    let (folder, file) = strange_folder();
    std::fs::create_dir(folder.path(&format!("d{STRANGE}"))).unwrap();
    let beside = format!("d{STRANGE}/ready.csv");
    let (held, sheet) = (format!("h{STRANGE}.csv"), STRANGE.to_owned());
    std::fs::copy(folder.path(&file), folder.path("table.csv")).unwrap();

    folder.write(
        "t.json",
        serde_json::to_string(&serde_json::json!([{ "k": STRANGE, STRANGE: 1 }, { "k": 5 }])).unwrap(),
    );
    folder.write("bad.ndjson", format!("{{\"k\":\"{STRANGE}\"}}\n{{\"k\n"));
    folder.write("t.sql", format!("CREATE TABLE t (k INT PRIMARY KEY, \"n {STRANGE}\" TEXT CHECK (n IN ('{STRANGE}', 'b')));\nCOMMENT ON COLUMN t.k IS '{STRANGE}';"));
    folder.write("bad.record.toml", format!("format = 1\nrecord = \"t\"\n[[field]]\nname = \"{IN_TOML}\"\nkind = \"{IN_TOML}\"\n\"{IN_TOML}\" = 1\n"));
    folder.write("bad2.record.toml", format!("format = 1\nrecord = \"t\"\nkey = [\"{IN_TOML}\"]\n# \u{202e}\n[[field]]\nname = \"k\"\nkind = \"text\" \u{9b}\n"));
    folder.write("t.csv-metadata.json", format!("{{\"@context\":\"http://www.w3.org/ns/csvw\",\"url\":\"t.csv\",\"tableSchema\":{{\"columns\":[{{\"name\":\"k\",\"titles\":\"t\",\"dc:description\":{}}}]}}}}", serde_json::to_string(STRANGE).unwrap()));
    let cases: Vec<Vec<&str>> = vec![
        vec!["check", &file, "--record", "r.record.toml", "--ready", &beside, "--held", &held],
        vec!["check", &file, "--record", "r.record.toml", "--plan", "r.plan.toml"],
        vec!["check", &file, "--record", &sheet],
        vec!["check", &file, "--record", "r.record.toml", "--sheet", &sheet],
        vec!["check", &file, "--record", "r.record.toml", "--dates", &sheet],
        vec!["check", &file, "--record", "r.record.toml", "--reference", &sheet],
        vec!["check", &file, "--record", "r.record.toml", "--encoding", &sheet],
        vec!["check", &file, "--record", "r.record.toml", &sheet],
        vec!["check", &file, "--record", "r.record.toml", "--ready", &held],
        vec!["check", "t.json", "--record", "r.record.toml"],
        vec!["check", "bad.ndjson", "--record", "r.record.toml"],
        vec!["check", &file, "--record", "bad.record.toml"],
        vec!["check", &file, "--record", "bad2.record.toml"],
        vec!["peek", &file],
        vec!["peek", "t.json"],
        vec!["match", &file, "--record", "r.record.toml"],
        vec!["match", &file, "--record", "r.record.toml", "--default", &sheet],
        vec!["match", &file, "--record", "r.record.toml", "--pair", &sheet],
        vec!["fields", "r.record.toml"],
        vec!["fields", "r.record.toml", &sheet],
        vec!["fields", "r.record.toml", "--format", "csv"],
        vec!["fields", "r.record.toml", "--format", "markdown"],
        vec!["fields", "r.record.toml", "--format", "json-schema"],
        vec!["fields", "r.record.toml", "--format", "csvw"],
        vec!["template", "r.record.toml", "-o", &held],
        vec!["template", "r.record.toml", "-o", "t.xlsx", "--fields", &sheet],
        vec!["draft", &file],
        vec!["draft", "t.json"],
        vec!["draft", "t.sql"],
        vec!["draft", "t.sql", "--table", &sheet],
        vec!["draft", "t.csv-metadata.json"],
        vec!["draft", &sheet],
        vec!["explain", &sheet],
        vec![&sheet],
        vec!["demo", &beside],
    ];
    for words in cases {
        let mut command = folder.command("");
        let ran = crate::tool::ran(command.args(&words).output().unwrap());
        is_clean(&ran, &words.join(" ").escape_debug().to_string());
        let formats = ["check", "peek", "match", "fields"];
        if ran.code < 2
            && formats.contains(&words[0])
            && !words.contains(&"--format")
            && !words.contains(&"--ready")
        {
            let mut command = folder.command("");
            let ran = crate::tool::ran(command.args(&words).args(["--format", "json"]).output().unwrap());
            is_clean(&ran, &format!("{} as JSON", words[0]));
            // Nothing is lost: whoever reads the JSON gets the letters.
            let read: Value =
                serde_json::from_str(&ran.out).unwrap_or_else(|error| panic!("{words:?}: {error}"));
            assert!(words[0] == "fields" || read.to_string().contains('\u{9b}'), "{words:?}: {read}");
        }
    }
}

#[test]
fn what_is_drafted_from_strange_sources_can_be_read() {
    let (folder, file) = strange_folder();
    for (source, more) in [(file.as_str(), ""), ("t.sql", "--table t"), ("d.csv", "--as dictionary")] {
        folder.write(
            "t.sql",
            format!("CREATE TABLE t (k INT PRIMARY KEY, n TEXT);\nCOMMENT ON COLUMN t.n IS '{STRANGE}';"),
        );
        folder.write(
            "d.csv",
            format!("Field,Type,Description\nk,text,\"{STRANGE}\"\n\"n {STRANGE}\",text,b\n"),
        );
        let mut command = folder.command("draft");
        let ran = crate::tool::ran(command.arg(source).args(more.split_whitespace()).output().unwrap());
        assert_eq!(ran.code, 0, "{source:?}: {}", ran.err);
        folder.write("drafted.record.toml", &ran.out).write("table.csv", "k\n1\n");
        let ran = folder.run("fields drafted.record.toml --format json-schema");
        assert_eq!(ran.code, 0, "{source:?}: {}\n{}", ran.err, folder.read("drafted.record.toml"));
    }
}

#[test]
fn formulas_of_a_schema_are_texts_to_a_spreadsheet() {
    let (folder, _) = strange_folder();
    assert_eq!(folder.run("template r.record.toml -o t.csv").code, 0);
    assert_eq!(folder.run("fields r.record.toml --format csv -o f.csv").code, 0);
    for name in ["t.csv", "f.csv"] {
        let mut rows =
            csv::ReaderBuilder::new().has_headers(false).flexible(true).from_path(folder.path(name)).unwrap();
        for cell in rows.records().flat_map(|row| row.unwrap().iter().map(str::to_owned).collect::<Vec<_>>())
        {
            let first = cell.trim_start_matches('\u{feff}').chars().next();
            assert!(!first.is_some_and(|c| "=+-@\t\r".contains(c)), "{name}: {cell:?}");
        }
    }
    // And what the template holds is read back by the gate.
    let template = folder.read("t.csv");
    let width = template.lines().next().unwrap().split(',').count();
    folder.write("filled.csv", format!("{template}a{}\n", ",".repeat(width - 1)));
    let ran = folder.run("check filled.csv --record r.record.toml --ready ready.csv");
    assert_eq!((ran.code, folder.read("ready.csv").lines().count()), (0, 2), "{}{}", ran.out, ran.err);
}
