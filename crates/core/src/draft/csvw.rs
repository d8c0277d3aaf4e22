//! From W3C "Metadata Vocabulary for Tabular Data" (CSVW): a table, its columns, and its dialect as a plan.

use super::model::{Draft, DraftFault, DraftField, DraftList, DraftRequired};
use super::names;
use super::write::quoted;
use crate::headings::ColumnName;
use crate::plan::{PlanEdit, PlanText};
use crate::schema::raw::KindName;
use crate::schema::{NoLists, RecordSchema};
use serde_json::{Map, Value};

type Object = Map<String, Value>;

/// No file begins further down.
const MOST_ROWS: u64 = 1 << 40;

/// The table of this name, or the only one.
///
/// # Errors
/// When it is no JSON, describes no table, or several and none was named.
pub fn from_csvw(text: &str, name: Option<&str>, stem: &str) -> Result<Draft, DraftFault> {
    let root: Value = serde_json::from_str(text)
        .map_err(|error| DraftFault::Unreadable(format!("it is no JSON: {error}")))?;
    let root = root.as_object().cloned().unwrap_or_default();
    let tables: Vec<Object> = match root.get("tables").and_then(Value::as_array) {
        // What is said of the group is said of each.
        Some(tables) => tables
            .iter()
            .filter_map(Value::as_object)
            .map(|table| {
                let shared = root.iter().filter(|(key, _)| *key != "tables");
                let own = table.iter();
                shared.chain(own).map(|(key, value)| (key.clone(), value.clone())).collect()
            })
            .collect(),
        None => vec![root],
    };
    let called = |table: &Object| url_stem(table.get("url").and_then(Value::as_str).unwrap_or(stem));
    let with_columns: Vec<&Object> =
        tables.iter().filter(|table| schema_of(table).get("columns").is_some_and(Value::is_array)).collect();
    let table = match (name, with_columns.as_slice()) {
        (_, []) => return Err(DraftFault::Nothing("it describes no table with columns".to_owned())),
        (Some(name), tables) => tables
            .iter()
            .find(|table| called(table).eq_ignore_ascii_case(name))
            .ok_or_else(|| DraftFault::NoTable(name.to_owned()))?,
        (None, [one]) => one,
        (None, several) => {
            return Err(DraftFault::Several(several.iter().map(|table| called(table)).collect()));
        }
    };
    let mut reader = Reader { draft: Draft::default(), table, plan: DialectPlan::default() };
    reader.draft.record = names::plain(&called(table));
    reader.draft.label =
        ["dc:title", "dcterms:title", "rdfs:label"].iter().find_map(|key| natural(table.get(*key)?));
    reader.draft.version = table.get("schema:version").and_then(Value::as_str).map(ToOwned::to_owned);
    reader.draft.remarks.push("Drafted from CSVW metadata.".to_owned());
    reader.read();
    reader.draft.with_fields()
}

fn schema_of(table: &Object) -> Object {
    table.get("tableSchema").and_then(Value::as_object).cloned().unwrap_or_default()
}

/// The name of a file without its folder and ending.
fn url_stem(url: &str) -> String {
    let name = url.rsplit(['/', '#']).find(|part| !part.is_empty()).unwrap_or(url);
    name.split('.').next().unwrap_or(name).to_owned()
}

/// A text that may be given in several languages, the first of it.
fn natural(value: &Value) -> Option<String> {
    all_natural(value).into_iter().next()
}

fn all_natural(value: &Value) -> Vec<String> {
    match value {
        Value::String(text) => vec![text.trim().to_owned()],
        Value::Array(all) => all.iter().flat_map(all_natural).collect(),
        Value::Object(languages) => match languages.get("@value") {
            Some(value) => all_natural(value),
            None => languages.values().flat_map(all_natural).collect(),
        },
        _ => Vec::new(),
    }
}

struct Reader<'a> {
    draft: Draft,
    table: &'a Object,
    plan: DialectPlan,
}

/// What the metadata says of how the file is read.
#[derive(Debug, Default)]
struct DialectPlan {
    file: Vec<String>,
    read: Vec<String>,
    fields: Vec<(String, Vec<String>)>,
    edit: PlanEdit,
}

const DESCRIPTIONS: [&str; 5] =
    ["dc:description", "dcterms:description", "rdfs:comment", "schema:description", "description"];

/// Keys of a table schema that are read, or say nothing of what a record asks.
const KNOWN: [&str; 16] = [
    "columns",
    "primaryKey",
    "foreignKeys",
    "datatype",
    "null",
    "separator",
    "default",
    "required",
    "@id",
    "@type",
    "aboutUrl",
    "propertyUrl",
    "valueUrl",
    "rowTitles",
    "lang",
    "textDirection",
];

impl Reader<'_> {
    fn read(&mut self) {
        let schema = schema_of(self.table);
        let columns = schema.get("columns").and_then(Value::as_array).cloned().unwrap_or_default();
        for (number, column) in columns.iter().filter_map(Value::as_object).enumerate() {
            self.own_column(number, column, &schema);
        }
        self.keys(&schema);
        for key in schema.keys().filter(|key| !KNOWN.contains(&key.as_str()) && !key.contains(':')) {
            self.draft.not_understood.push(format!("{key} of the table schema"));
        }
        self.dialect();
        self.plan.share(self.draft.fields.len());
        self.draft.settle();
        self.draft.plan = self.plan.text(&self.draft.record).and_then(|plan| self.permitted(plan));
    }

    /// A column with what it inherits.
    fn own_column(&mut self, number: usize, column: &Object, schema: &Object) {
        if column.get("virtual").and_then(Value::as_bool).unwrap_or_default() {
            let name = column.get("name").and_then(Value::as_str).unwrap_or("a column");
            self.draft.not_understood.push(format!("{name}: a virtual column, which no file holds"));
            return;
        }
        // Properties that columns inherit.
        let inherited = ["datatype", "null", "separator", "default", "required"];
        let above = [self.table, schema];
        let mut whole = Object::new();
        for object in above {
            for key in inherited {
                object
                    .get(key)
                    .into_iter()
                    .for_each(|value| drop(whole.insert(key.to_owned(), value.clone())));
            }
        }
        whole.extend(column.clone());
        self.column(number, &whole);
    }

    /// The key, and the fields that refer to others.
    fn keys(&mut self, schema: &Object) {
        let names_of = |value: &Value| -> Vec<String> {
            let all = value.as_array().map_or_else(|| vec![value], |all| all.iter().collect());
            all.into_iter().filter_map(Value::as_str).map(decoded).collect()
        };
        self.draft.key = schema.get("primaryKey").map(names_of).unwrap_or_default();
        for foreign in schema.get("foreignKeys").and_then(Value::as_array).into_iter().flatten() {
            let from = foreign.get("columnReference").map(names_of).unwrap_or_default();
            let reference = foreign.get("reference");
            let to = reference.and_then(|to| to.get("resource").or(to.get("schemaReference"))?.as_str());
            let field = match from.as_slice() {
                [one] => self.draft.fields.iter_mut().find(|field| field.name == *one),
                _ => None,
            };
            match (field, to) {
                (Some(field), Some(to)) => {
                    field.kind = KindName::Reference;
                    field.to = Some(names::plain(&url_stem(to)));
                    (field.length, field.pattern) = ((None, None), None);
                }
                _ => self.draft.not_understood.push(format!("the foreign key of {}", from.join(", "))),
            }
        }
    }

    /// The plan without the lines that a plan may not have: a dialect can hold anything.
    fn permitted(&mut self, mut plan: String) -> Option<String> {
        let schema = RecordSchema::read(&self.draft.to_toml(), &mut NoLists).ok()?;
        loop {
            let Err(faults) = PlanText::read(&plan).against(&schema) else { return Some(plan) };
            let fault = faults.first()?;
            let start = plan.get(..fault.span.start)?.rfind('\n').map_or(0, |end| end + 1);
            let end = plan.get(start..)?.find('\n').map_or(plan.len(), |end| start + end + 1);
            let line = plan[start..end].trim();
            self.draft.not_understood.push(format!("the dialect's {line}: {}", fault.message));
            // What has no value of its own cannot be left out alone.
            if !line.contains('=') || line.starts_with("format") || line.starts_with("record") {
                return None;
            }
            plan.replace_range(start..end, "");
        }
    }

    fn column(&mut self, number: usize, column: &Object) {
        let titles = column.get("titles").or(column.get("title")).map(all_natural).unwrap_or_default();
        let name = column.get("name").and_then(Value::as_str).map(decoded);
        let name = name.or_else(|| titles.first().map(|title| names::of_heading(title)));
        let name = name.unwrap_or_else(|| format!("column_{}", number + 1));
        let mut field = DraftField::new(&name, KindName::Text);
        field.label = titles.first().cloned();
        field.also = titles.into_iter().skip(1).filter(|title| *title != name).collect();
        field.help = DESCRIPTIONS.iter().find_map(|key| natural(column.get(*key)?));
        let is_required = column.get("required").and_then(Value::as_bool).unwrap_or_default();
        field.required = if is_required { DraftRequired::Always } else { DraftRequired::No };
        field.default = column
            .get("default")
            .and_then(Value::as_str)
            .map(ToOwned::to_owned)
            .filter(|text| !text.is_empty());
        match column.get("datatype") {
            Some(Value::String(base)) => self.base(&mut field, base),
            Some(Value::Object(datatype)) => self.datatype(&mut field, datatype),
            _ => {}
        }
        if let Some(separator) = column.get("separator").and_then(Value::as_str) {
            if field.kind != KindName::Picklist {
                let kind = field.kind.name();
                field.remarks.push(format!(
                    "LOOK: several values of kind {kind} with {separator:?} between: only lists may have several, so it is \
                     an open one"
                ));
                field.kind = KindName::Picklist;
                let list = DraftList { name: names::plain(&name), open: true, ..DraftList::default() };
                field.picklist = Some(self.draft.add_list(list));
                (field.length, field.range, field.digits) = ((None, None), (None, None), (None, None));
                (field.pattern, field.dates) = (None, Vec::new());
            }
            field.many = Some((separator.to_owned(), None));
        }
        let nulls = column.get("null").map(all_natural).unwrap_or_default();
        let nulls: Vec<String> = nulls.into_iter().filter(|null| !null.is_empty()).collect();
        if !nulls.is_empty() {
            let words: Vec<String> = nulls.iter().map(|null| quoted(null)).collect();
            self.plan.of(&name, format!("blank = [{}]", words.join(", ")));
        }
        self.draft.fields.push(field);
    }

    fn base(&mut self, field: &mut DraftField, base: &str) {
        if let Some(kind) = KindName::ALL.iter().find(|kind| kind.facts().bases.contains(&base)) {
            field.kind = *kind;
            return;
        }
        field.kind = match base {
            "nonNegativeInteger" | "unsignedLong" | "unsignedInt" | "unsignedShort" | "unsignedByte" => {
                field.range.0 = Some("0".to_owned());
                KindName::Integer
            }
            "positiveInteger" => {
                field.range.0 = Some("1".to_owned());
                KindName::Integer
            }
            "nonPositiveInteger" | "negativeInteger" => {
                field.range.1 = Some(if base == "negativeInteger" { "-1" } else { "0" }.to_owned());
                KindName::Integer
            }
            other => {
                field.remarks.push(format!("the datatype {other} was not understood: taken for text"));
                self.draft.not_understood.push(format!("{}: the datatype {other}", field.name));
                KindName::Text
            }
        };
    }

    fn datatype(&mut self, field: &mut DraftField, datatype: &Object) {
        self.base(field, datatype.get("base").and_then(Value::as_str).unwrap_or("string"));
        let text = |key: &str| match datatype.get(key)? {
            Value::String(text) => Some(text.clone()),
            Value::Number(number) => Some(number.to_string()),
            _ => None,
        };
        let count = |key: &str| text(key).and_then(|count| count.parse::<u32>().ok());
        let exactly = count("length");
        field.length = (exactly.or(count("minLength")), exactly.or(count("maxLength")));
        let low = text("minimum").or(text("minInclusive"));
        let high = text("maximum").or(text("maxInclusive"));
        field.range = (low.or(field.range.0.take()), high.or(field.range.1.take()));
        for (key, is_low) in [("minExclusive", true), ("maxExclusive", false)] {
            let Some(end) = text(key) else { continue };
            let whole = end.parse::<i64>().ok().filter(|_| field.kind == KindName::Integer);
            let inside = whole.map(|end| (if is_low { end + 1 } else { end - 1 }).to_string());
            if inside.is_none() {
                field.remarks.push(format!("{key} {end}: the range includes its end"));
            }
            let slot = if is_low { &mut field.range.0 } else { &mut field.range.1 };
            *slot = inside.or(Some(end));
        }
        match datatype.get("format") {
            Some(Value::String(format)) => self.format(field, format),
            Some(Value::Object(numbers)) => {
                let mark = |key: &str| numbers.get(key).and_then(Value::as_str);
                for (key, ours) in [("decimalChar", "decimal_mark"), ("groupChar", "group_mark")] {
                    if let Some(mark) = mark(key) {
                        self.plan.of(&field.name, format!("{ours} = {}", quoted(mark)));
                    }
                }
                if let Some(pattern) = mark("pattern") {
                    self.draft.not_understood.push(format!("{}: the number pattern {pattern}", field.name));
                }
            }
            _ => {}
        }
    }

    fn format(&mut self, field: &mut DraftField, format: &str) {
        match field.kind {
            KindName::Date => match crate::value::DatePattern::new(format) {
                Ok(_) if format == "yyyy-MM-dd" => {}
                Ok(_) => field.dates = vec![format.to_owned()],
                Err(_) => self.draft.not_understood.push(format!("{}: the form {format}", field.name)),
            },
            KindName::Boolean => {
                if let Some((yes, no)) = format.split_once('|').filter(|pair| *pair != ("true", "false")) {
                    self.plan.of(&field.name, format!("true = [{}]", quoted(yes)));
                    self.plan.of(&field.name, format!("false = [{}]", quoted(no)));
                }
            }
            KindName::Text => match alternatives(format) {
                Some(values) => {
                    let values = values.into_iter().map(|value| (value, None)).collect();
                    field.kind = KindName::Picklist;
                    field.picklist = Some(self.draft.list(&field.name.clone(), values));
                    field.length = (None, None);
                }
                None => field.pattern = Some(format.trim_start_matches('^').trim_end_matches('$').to_owned()),
            },
            _ => self.draft.not_understood.push(format!("{}: the form {format}", field.name)),
        }
    }

    /// The dialect, as what a plan says of a file.
    fn dialect(&mut self) {
        let Some(dialect) = self.table.get("dialect").and_then(Value::as_object) else { return };
        let text = |key: &str| dialect.get(key).and_then(Value::as_str);
        let number = |key: &str| dialect.get(key).and_then(Value::as_u64).map(|rows| rows.min(MOST_ROWS));
        let truth = |key: &str| dialect.get(key).and_then(Value::as_bool);
        if let Some(delimiter) = text("delimiter").filter(|delimiter| *delimiter != ",") {
            self.plan.file.push(format!("delimiter = {}", quoted(delimiter)));
        }
        if let Some(encoding) = text("encoding").filter(|encoding| !encoding.eq_ignore_ascii_case("utf-8")) {
            self.plan.file.push(format!("encoding = {}", quoted(&encoding.to_lowercase())));
        }
        let skipped = number("skipRows").unwrap_or(0);
        let headings = number("headerRowCount").unwrap_or(u64::from(truth("header") != Some(false)));
        if headings == 0 {
            self.plan.file.push("by_position = true".to_owned());
            for (number, field) in self.draft.fields.iter().enumerate() {
                self.plan.edit.columns.push((ColumnName::Place(number), Some(field.name.clone())));
            }
            if skipped > 0 {
                self.plan.file.push(format!("first_row = {}", skipped + 1));
            }
        } else if skipped > 0 || headings > 1 {
            self.plan.file.push(format!("heading_row = {}", skipped + 1));
            if headings > 1 {
                self.plan.file.push(format!("first_row = {}", skipped + headings + 1));
            }
        }
        match dialect.get("trim") {
            Some(Value::Bool(false)) => self.plan.read.push("trim = false".to_owned()),
            Some(Value::String(trim)) if trim == "false" => self.plan.read.push("trim = false".to_owned()),
            _ => {}
        }
        let known = [
            "delimiter",
            "encoding",
            "skipRows",
            "headerRowCount",
            "header",
            "trim",
            "lineTerminators",
            "skipBlankRows",
            "doubleQuote",
            "@id",
            "@type",
        ];
        for (key, value) in dialect {
            let is_usual = key == "quoteChar" && value == "\""
                || key == "commentPrefix" && value.is_null()
                || key == "skipInitialSpace"
                || key == "skipColumns" && value.as_u64() == Some(0);
            if !known.contains(&key.as_str()) && !is_usual {
                self.draft.not_understood.push(format!("{key} of the dialect: {value}"));
            }
        }
    }
}

impl DialectPlan {
    fn of(&mut self, field: &str, line: String) {
        match self.fields.iter_mut().find(|known| known.0 == field) {
            Some(known) => known.1.push(line),
            None => self.fields.push((field.to_owned(), vec![line])),
        }
    }

    /// What is said of every field is said once.
    fn share(&mut self, fields: usize) {
        let Some((_, first)) = self.fields.first().cloned().filter(|_| self.fields.len() == fields) else {
            return;
        };
        for line in first {
            if self.fields.iter().all(|(_, lines)| lines.contains(&line)) {
                self.fields.iter_mut().for_each(|(_, lines)| lines.retain(|other| *other != line));
                self.read.push(line);
            }
        }
        self.fields.retain(|(_, lines)| !lines.is_empty());
    }

    /// The text of the plan; nothing when there is nothing to say.
    fn text(&self, record: &str) -> Option<String> {
        if self.file.is_empty() && self.read.is_empty() && self.fields.is_empty() {
            return None;
        }
        let mut text =
            format!("# From the dialect of CSVW metadata.\nformat = 1\nrecord = \"{record}.record.toml\"\n");
        for (name, lines) in [("file", &self.file), ("read", &self.read)] {
            if !lines.is_empty() {
                text.push_str(&format!("\n[{name}]\n{}\n", lines.join("\n")));
            }
        }
        for (field, lines) in &self.fields {
            let is_plain =
                field.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'_' || byte == b'-');
            let key = if is_plain { field.clone() } else { quoted(field) };
            text.push_str(&format!("\n[read.fields.{key}]\n{}\n", lines.join("\n")));
        }
        crate::plan::edited(&text, &self.edit).ok()
    }
}

/// The words of a pattern that only lists them, such as `E|G|X`.
fn alternatives(pattern: &str) -> Option<Vec<String>> {
    let inner = pattern.trim_start_matches('^').trim_end_matches('$');
    let inner = inner.strip_prefix('(').and_then(|inner| inner.strip_suffix(')')).unwrap_or(inner);
    if !inner.contains('|') {
        return None;
    }
    let mut words = vec![String::new()];
    let mut chars = inner.chars();
    while let Some(c) = chars.next() {
        match c {
            '|' => words.push(String::new()),
            '\\' => words.last_mut()?.push(chars.next().filter(|c| !c.is_alphanumeric())?),
            '.' | '*' | '+' | '?' | '[' | ']' | '(' | ')' | '{' | '}' | '^' | '$' => return None,
            c => words.last_mut()?.push(c),
        }
    }
    (!words.iter().any(String::is_empty)).then_some(words)
}

/// A name with its percent triplets read.
fn decoded(name: &str) -> String {
    let mut bytes = Vec::new();
    let mut rest = name.as_bytes();
    while let Some((&byte, tail)) = rest.split_first() {
        let code = tail.get(..2).and_then(|code| std::str::from_utf8(code).ok());
        match (byte, code.and_then(|code| u8::from_str_radix(code, 16).ok())) {
            (b'%', Some(code)) => {
                bytes.push(code);
                rest = tail.get(2..).unwrap_or_default();
            }
            _ => {
                bytes.push(byte);
                rest = tail;
            }
        }
    }
    String::from_utf8_lossy(&bytes).into_owned()
}
