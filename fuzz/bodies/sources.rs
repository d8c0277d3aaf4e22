//! Any text as the source of a draft, as a plan or as a condition: the first byte says which. What is drafted is a
//! record schema that can be read, and a plan that was changed can be read once more.

use std::sync::OnceLock;
use tidy_gate_core::draft::{Dictionary, Draft, DraftFault, Lists, from_csvw, from_json_schema, from_sql};
use tidy_gate_core::plan::{PlanEdit, PlanText, edited};
use tidy_gate_core::schema::{NoLists, RecordSchema};

const SCHEMA: &str = "format = 1\nrecord = \"t\"\nkey = [\"a\"]\n\
    [[field]]\nname = \"a\"\nkind = \"integer\"\n\
    [[field]]\nname = \"b\"\nkind = \"picklist\"\npicklist = \"p\"\n\
    [[field]]\nname = \"c\"\nkind = \"date\"\n\
    [[field]]\nname = \"d\"\nkind = \"decimal\"\n\
    [picklist.p]\nvalues = [{ code = \"x\", label = \"An x\" }, { code = \"y\" }]\n";

pub(crate) fn run(data: &[u8]) {
    let Some((&kind, text)) = data.split_first() else { return };
    let Ok(text) = std::str::from_utf8(text) else { return };
    match kind {
        b's' => readable(from_sql(text, None)),
        b'c' => readable(from_csvw(text, None, "t")),
        b'j' => readable(from_json_schema(text, None, "t")),
        b'd' => dictionary(text),
        b'p' => plan(text),
        _ => {
            let rules = format!("{SCHEMA}[[rule]]\nname = \"r\"\nmust = {}\n", toml_text(text));
            let _ = RecordSchema::read(&rules, &mut NoLists);
        }
    }
}

fn toml_text(text: &str) -> String {
    format!("{:?}", text.chars().filter(|letter| !letter.is_control()).collect::<String>())
}

fn readable(draft: Result<Draft, DraftFault>) {
    let Ok(mut draft) = draft else { return };
    draft.settle();
    let toml = draft.to_toml();
    let read = RecordSchema::read(&toml, &mut NoLists);
    assert!(read.is_ok(), "{:?}\n{toml}", read.err());
}

/// A dictionary: cells between bars.
fn dictionary(text: &str) {
    let mut rows = text.lines().map(|line| line.split('|').map(str::to_owned).collect::<Vec<_>>());
    let Some(headings) = rows.next() else { return };
    let rows: Vec<_> = rows.collect();
    let dictionary = Dictionary::new(&headings);
    if dictionary.names_fields() {
        let _ = dictionary.is_one(&rows);
        readable(dictionary.draft(&rows, None, "t", &mut Lists::of("t", &mut NoLists)));
    }
}

fn plan(text: &str) {
    static READ: OnceLock<RecordSchema> = OnceLock::new();
    let schema = READ.get_or_init(|| RecordSchema::read(SCHEMA, &mut NoLists).unwrap());
    if let Err(faults) = PlanText::read(text).against(schema) {
        assert!(
            faults
                .iter()
                .all(|fault| fault.span.end <= text.len() && text.is_char_boundary(fault.span.start))
        );
        return;
    }
    let change = PlanEdit {
        sheet: Some("S".to_owned()),
        dates: vec!["dd/MM/yyyy".to_owned()],
        defaults: vec![("a".to_owned(), "1".to_owned())],
        ..PlanEdit::default()
    };
    let changed = edited(text, &change).unwrap();
    // What was decided may not go together with what the plan says; told it is all the same.
    let _ = PlanText::read(&changed).against(schema);
    assert!(!edited(&changed, &change).unwrap().is_empty());
}
