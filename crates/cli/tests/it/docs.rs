//! Pages made from the code are current. `TIDY_GATE_WRITE_DOCS=1 cargo test --workspace docs::` writes them.

use crate::tool::project;
use tidy_gate_core::catalogue::{Scope, entries};
use tidy_gate_core::causes::cause_entries;
use tidy_gate_core::fields::FieldsReport;
use tidy_gate_core::matching::MatchReport;
use tidy_gate_core::peek::PeekReport;
use tidy_gate_core::plan::raw::RawPlan;
use tidy_gate_core::receipt::Receipt;
use tidy_gate_core::report::Report;
use tidy_gate_core::schema::raw::RawRecord;

fn current(name: &str, wanted: &str) {
    let path = project().join("docs").join(name);
    if std::env::var_os("TIDY_GATE_WRITE_DOCS").is_some() {
        std::fs::write(&path, wanted).unwrap();
    }
    let found = std::fs::read_to_string(&path).unwrap_or_default();
    assert!(
        found == wanted,
        "docs/{name} is stale: run TIDY_GATE_WRITE_DOCS=1 cargo test --workspace docs::"
    );
}

/// The same for a part of a page, which stands between two comments with this name.
pub(crate) fn current_part(page: &str, part: &str, wanted: &str) {
    let text = std::fs::read_to_string(project().join("docs").join(page)).unwrap();
    let (begin, end) = (format!("<!-- {part} -->\n"), format!("<!-- end of {part} -->\n"));
    let (before, rest) = text.split_once(&begin).unwrap();
    let (_, after) = rest.split_once(&end).unwrap();
    current(page, &format!("{before}{begin}{wanted}{end}{after}"));
}

#[test]
fn the_page_of_findings() {
    let mut page = String::from(
        "# The findings\n\nEvery finding has a stable code and a level. A **stop** holds its row, and one without a row holds every\n\
         row. A **warn** and a **note** hold nothing. `tidy-gate explain CODE` tells the same on the terminal.\n\n\
         *This page is made from the catalogue in the code.*\n",
    );
    for scope in Scope::ALL {
        page.push_str(&format!("\n## {}\n", scope.title()));
        for entry in entries().filter(|entry| entry.scope == scope) {
            let otherwise = entry.otherwise.map(|otherwise| format!(", {otherwise}")).unwrap_or_default();
            page.push_str(&format!(
                "\n### `{}`\n\n{}{otherwise}: {}.\n\n- **Why it matters.** {}\n- **How to put it right.** {}\n- Not so: `{}`\n- But so: `{}`\n",
                entry.code, entry.level.name(), entry.title, entry.why, entry.remedy, entry.bad, entry.good
            ));
        }
    }
    current("findings.md", &page);
}

#[test]
fn the_page_of_causes() {
    let mut page = String::from(
        "# The causes\n\nA cause explains many findings at once and names the one thing that removes them. Each finding belongs to one cause\n\
         at most; what none explains is listed as before. `tidy-gate check` tells causes first, `causes[]` of its report in JSON has\n\
         all of them, and `tidy-gate explain CAUSE` tells the same on the terminal.\n\n\
         A remedy is of one of four kinds: lines for the **plan**, something that **mend** does, **rows** to delete, or a\n\
         sentence for the **sender**.\n\n*This page is made from the catalogue in the code.*\n",
    );
    for cause in cause_entries() {
        page.push_str(&format!(
            "\n## `{}`\n\n{}.\n\n- **How it comes about.** {}\n- **What removes it.** {}\n- **What the sender can do.** {}\n- For example: {}\n",
            cause.code, cause.title, cause.why, cause.remedy, cause.ask, cause.example
        ));
    }
    current("causes.md", &page);
}

#[test]
fn the_schemas() {
    let pretty = |schema: &schemars::Schema| serde_json::to_string_pretty(schema).unwrap() + "\n";
    // What is left out of a report when it is empty is not required in it.
    let written = schemars::generate::SchemaSettings::draft2020_12().for_serialize().into_generator();
    current("schemas/report.schema.json", &pretty(&written.into_root_schema_for::<Report>()));
    let written = schemars::generate::SchemaSettings::draft2020_12().for_serialize().into_generator();
    current("schemas/receipt.schema.json", &pretty(&written.into_root_schema_for::<Receipt>()));
    let written = schemars::generate::SchemaSettings::draft2020_12().for_serialize().into_generator();
    current("schemas/peek.schema.json", &pretty(&written.into_root_schema_for::<PeekReport>()));
    let written = schemars::generate::SchemaSettings::draft2020_12().for_serialize().into_generator();
    current("schemas/match.schema.json", &pretty(&written.into_root_schema_for::<MatchReport>()));
    let written = schemars::generate::SchemaSettings::draft2020_12().for_serialize().into_generator();
    current("schemas/fields.schema.json", &pretty(&written.into_root_schema_for::<FieldsReport>()));
    current("schemas/record.schema.json", &pretty(&schemars::schema_for!(RawRecord)));
    current("schemas/plan.schema.json", &pretty(&schemars::schema_for!(RawPlan)));
}

#[test]
fn the_readme_names_what_there_is() {
    let readme = std::fs::read_to_string(project().join("README.md")).unwrap();
    for part in [
        "cargo run --release -- demo",
        "cargo test --workspace",
        "docs/guide.md",
        "docs/plan.md",
        "docs/findings.md",
    ] {
        assert!(readme.contains(part), "{part}");
    }
    let pictures =
        readme.split("](").filter_map(|part| part.split(')').next()).filter(|link| link.ends_with(".png"));
    for picture in pictures {
        assert!(project().join(picture).exists(), "{picture}");
    }
}

/// What stands between back-ticks on a page.
fn quoted(page: &str) -> Vec<String> {
    let text = std::fs::read_to_string(project().join(page)).unwrap();
    text.split('`').skip(1).step_by(2).map(str::to_owned).collect()
}

#[test]
fn what_the_pages_for_builders_name_is_there() {
    let sources = sources();
    let mut missing = Vec::new();
    for page in ["docs/architecture.md", "CONTRIBUTING.md"] {
        for name in quoted(page) {
            let is_path = ["crates/", "docs/", "benches/"].iter().any(|root| name.starts_with(root));
            let is_there = match name.split_once("::") {
                None if is_path => project().join(&name).exists(),
                Some(_) if name.chars().all(|letter| letter.is_alphanumeric() || ":_".contains(letter)) => {
                    is_in(&sources, &name.split("::").collect::<Vec<_>>())
                }
                _ => true,
            };
            if !is_there {
                missing.push(format!("{page}: {name}"));
            }
        }
    }
    assert!(missing.is_empty(), "{missing:#?}");
}

/// Every file of our crates, by its path without the ending, with its text.
fn sources() -> Vec<(String, String)> {
    let mut sources = Vec::new();
    for entry in std::fs::read_dir(project().join("crates")).unwrap() {
        crate::house::each_file(&entry.unwrap().path().join("src"), &mut |path| {
            let name = path.with_extension("").to_string_lossy().replace('\\', "/").replace("/src/", "/");
            sources.push((name.trim_end_matches("/lib").to_owned(), std::fs::read_to_string(path).unwrap()));
        });
    }
    sources
}

/// Whether a path of modules leads to a file, or to a function in one.
fn is_in(sources: &[(String, String)], parts: &[&str]) -> bool {
    let file = |parts: &[&str]| {
        let ending = format!("/{}", parts.join("/"));
        sources.iter().filter(move |(path, _)| path.ends_with(&ending))
    };
    let Some((last, module)) = parts.split_last() else { return false };
    if module.first().is_some_and(|first| first.starts_with(char::is_uppercase)) {
        return sources.iter().any(|(_, text)| text.contains(&format!("fn {last}")));
    }
    let names = |text: &str| {
        text.split(|letter: char| !letter.is_alphanumeric() && letter != '_').any(|word| word == *last)
    };
    file(parts).next().is_some() || file(module).any(|(_, text)| names(text))
}
