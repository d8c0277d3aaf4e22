//! Report files: a page, Markdown, SARIF and JSON, each for whoever reads it.

use crate::tool::{Folder, demo, project};
use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use serde_json::Value;
use sha2::{Digest, Sha256};

/// Texts that would be something else on a page, in a table or in a log if they were not made harmless.
const HOSTILE: &str = "no,<script>alert(1)</script>,\"\"\"><img src=x onerror=alert(2)>\",girth\n\
    N1,</textarea><svg onload=alert(3)>,&amp;&#60;,<i>1</i>\n\
    N2,</script></style><h1>,javascript:alert(4),| a | **b** |\n\
    N3,\u{202E}evil\u{1B}[31m,' onmouseover='alert(5),\"two\nlines\"\n";

const RECORD: &str = "format = 1\nrecord = \"loan\"\nlabel = \"<script>alert('label')</script>\"\nkey = [\"no\"]\n\
    [[field]]\nname = \"no\"\nkind = \"text\"\n\
    [[field]]\nname = \"word\"\nalso = [\"<script>alert(1)</script>\"]\nkind = \"picklist\"\npicklist = \"p\"\n\
    [[field]]\nname = \"girth\"\nkind = \"integer\"\n\
    [picklist.p]\nvalues = [{ code = \"<img src=x onerror=alert(7)>\" }]\n";

/// The files of the demo's check, or of the hostile table's.
fn written(folder: &Folder, check: &str, names: &[&str]) {
    let reports: String = names.iter().map(|name| format!(" --report {name}")).collect();
    let ran = folder.run(&format!("check {check} --today 2026-11-25{reports}"));
    assert_eq!(ran.code, 1, "{}", ran.err);
}

fn hostile() -> Folder {
    let folder = Folder::new();
    folder.write("table.csv", HOSTILE).write("r.record.toml", RECORD);
    written(&folder, "table.csv --record r.record.toml", &["r.html", "r.md", "r.sarif", "r.json"]);
    folder
}

fn of_demo() -> (Folder, String) {
    let file = |name: &str| demo().join(name).display().to_string();
    (Folder::new(), format!("{} --record {}", file("ward-7-survey.csv"), file("tree.record.toml")))
}

/// The text between two marks.
fn between<'a>(text: &'a str, begin: &str, end: &str) -> &'a str {
    text.split_once(begin).unwrap().1.split_once(end).unwrap().0
}

#[test]
fn a_page_loads_nothing_and_runs_nothing_but_its_own() {
    let folder = hostile();
    let page = folder.read("r.html");
    // One script and one style, permitted by their hashes, and nothing else.
    for (tag, policy) in [("script", "script-src"), ("style", "style-src")] {
        assert_eq!(page.matches(&format!("<{tag}")).count(), 1, "{tag}");
        let own = between(&page, &format!("<{tag}>"), &format!("</{tag}>"));
        let hash = STANDARD.encode(Sha256::digest(own));
        assert!(page.contains(&format!("{policy} 'sha256-{hash}'")), "{tag}");
    }
    assert!(page.contains("content=\"default-src 'none';"));
    for outside in
        ["<img", "<iframe", "<link", "<object", " src=\"", " style=\"", "@import", "url(", "onload=\""]
    {
        assert!(!page.contains(outside), "{outside}");
    }
    assert!(page.contains("&#60;script&#62;alert(1)&#60;/script&#62;"));
    // Every tag that is opened by the page is one of its own.
    let known = "!doctype a body button code dd details div dl dt fieldset figcaption figure footer form h1 h2 h3 head header html \
                 input label li line main meta nav ol option p polygon polyline pre rect script section select span strong \
                 style summary svg table tbody td text th thead title tr ul";
    let tags = page.split('<').skip(1).map(|rest| rest.trim_start_matches('/'));
    for tag in tags.map(|rest| rest.split(|c: char| !(c.is_ascii_alphanumeric() || c == '!')).next().unwrap())
    {
        // Within the script and the style there are no tags.
        assert!(known.split(' ').any(|known| known == tag) || tag.is_empty(), "{tag}");
    }
}

#[test]
fn a_page_of_the_demo_tells_all_parts() {
    let (folder, check) = of_demo();
    written(&folder, &check, &["r.html", "r.md"]);
    let page = folder.read("r.html");
    for part in ["causes", "next", "where", "findings", "columns"] {
        assert!(
            page.contains(&format!("<h2 id=\"{part}\"")) && page.contains(&format!("href=\"#{part}\"")),
            "{part}"
        );
    }
    assert!(page.contains("The file may not be loaded: 88 of 398 rows are held."));
    assert_eq!(page.matches("<tr data-level=").count(), 131);
    // What must not be shown is nowhere: the addresses of inspectors.
    assert!(!page.contains("lindqvist") && page.contains("***"));
    assert!(!folder.read("r.md").contains("lindqvist"));
    // Every column has its heading, and those with values their spread.
    assert_eq!(page.matches("<svg aria-hidden").count(), 14);
    insta::assert_snapshot!(between(&folder.read("r.md"), "## Causes", "3. **"), @r#"


    6 causes, which explain 81 of 131 findings.

    1. **rows-pasted-twice** (whole rows), 48 findings in 24 rows

       Rows 368 to 379 repeat rows 348 to 359.

       Rows: Delete the rows of the second block.

       ```text
       rows 368 to 379
       ```

    2. **unit-in-cells** (girth_cm), 20 findings in 20 rows

       20 cells of Girth (cm) hold a number with "cm" behind it. Such as "18.4 cm" in F268.

       Sender: Please give the numbers of Girth (cm) without "cm". (If that is the unit of the field, say unit = "cm" in the record schema; then \`mend\` takes it away.)
    "#);
}

#[test]
fn markdown_keeps_foreign_text_as_text() {
    let folder = hostile();
    let text = folder.read("r.md");
    assert!(text.contains("&lt;script>alert(1)&lt;/script>") && text.contains("\\| a \\| \\*\\*b\\*\\* \\|"));
    assert!(!text.contains("<script") && !text.contains('\u{202E}') && !text.contains('\u{1B}'));
    // Every row of the table has its six cells.
    for line in text.lines().filter(|line| line.starts_with('|')) {
        assert_eq!(line.replace("\\|", "").matches('|').count(), 7, "{line}");
    }
}

#[test]
fn logs_are_valid_and_point_at_the_cells() {
    let schema = std::fs::read(project().join("crates/cli/tests/data/sarif-2.1.0.schema.json")).unwrap();
    let schema: Value = serde_json::from_slice(&schema).unwrap();
    let valid = jsonschema::validator_for(&schema).unwrap();
    let folder = hostile();
    let (of_demo, check) = of_demo();
    written(&of_demo, &check, &["r.sarif"]);
    for (folder, table) in [
        (&folder, HOSTILE.to_owned()),
        (&of_demo, std::fs::read_to_string(demo().join("ward-7-survey.csv")).unwrap()),
    ] {
        let log: Value = serde_json::from_str(&folder.read("r.sarif")).unwrap();
        let faults: Vec<String> = valid.iter_errors(&log).map(|fault| fault.to_string()).collect();
        assert!(faults.is_empty(), "{faults:?}");
        let lines: Vec<&str> = table.trim_start_matches('\u{FEFF}').split('\n').collect();
        let results = log["runs"][0]["results"].as_array().unwrap();
        let mut pointed = 0;
        for result in results {
            let region = &result["locations"][0]["physicalLocation"]["region"];
            let number = |key: &str| usize::try_from(region[key].as_u64().unwrap()).unwrap();
            let message = result["message"]["text"].as_str().unwrap();
            let value = message.split_once(" (\"").and_then(|(_, value)| value.rsplit_once("\")"));
            let Some((value, _)) = value.filter(|(value, _)| *value != "***" && region["endColumn"].is_u64())
            else {
                continue;
            };
            if number("startLine") != number("endLine") {
                continue;
            }
            let line: Vec<char> = lines[number("startLine") - 1].chars().collect();
            let cell: String = line[number("startColumn") - 1..number("endColumn") - 1].iter().collect();
            let bare = cell.trim_matches('"').replace("\"\"", "\"");
            assert!(bare.trim().starts_with(value.trim()), "{message}: {cell}");
            pointed += 1;
        }
        assert!(pointed >= 3, "{pointed}");
        let marks = results.iter().filter(|result| result["partialFingerprints"]["tidyGate/v1"].is_string());
        assert_eq!(marks.count(), results.len());
    }
}

#[test]
fn report_files_are_outputs_like_others() {
    let folder = hostile();
    let check = "check table.csv --record r.record.toml";
    for (words, said) in [
        ("--report r.html", "r.html exists already"),
        ("--report r.txt", ".html, .md, .json or .sarif"),
        ("--report table.csv", ".html, .md, .json or .sarif"),
        ("--report new.json --report new.json", "another output of this run"),
        ("--since r.json --report r.json --force", "the earlier report"),
    ] {
        let ran = folder.run(&format!("{check} {words}"));
        assert_eq!(ran.code, 2, "{words}");
        assert!(ran.err.contains(said), "{words}: {}", ran.err);
    }
    // From standard input, with the digest of what came in.
    let ran = folder.run_with("check - --record r.record.toml --report in.json", HOSTILE.as_bytes());
    assert_eq!(ran.code, 1, "{}", ran.err);
    let sha256 = |name: &str| -> String {
        let report: Value = serde_json::from_str(&folder.read(name)).unwrap();
        report["file"]["sha256"].as_str().unwrap().to_owned()
    };
    assert_eq!(sha256("in.json"), sha256("r.json"));
}
