//! From SQL data definitions (ISO/IEC 9075-11, and what database engines write beside it): `CREATE TABLE`, comments,
//! enumerated types, and the constraints that dumps add afterwards.

mod checks;
mod statements;

use super::model::{Draft, DraftFault, DraftField, DraftRequired, DraftRule};
use super::{names, types};
use crate::condition;
use crate::schema::raw::KindName;
use crate::schema::{NoLists, RecordSchema};
use sqlparser::ast::{
    AlterTableOperation, ColumnDef, ColumnOption, CommentObject, CreateTable, DataType, Expr, GeneratedAs,
    Ident, IndexColumn, ObjectName, ObjectNamePart, Statement, TableConstraint,
    UserDefinedTypeRepresentation,
};
use std::collections::HashMap;

/// The table of this name, or the only one.
///
/// # Errors
/// When there is none, or several and none was named.
///
/// ```
/// use tidy_gate_core::draft::from_sql;
/// let mut draft = from_sql("CREATE TABLE tree (tag varchar(10) PRIMARY KEY, girth numeric(5,1))", None).unwrap();
/// draft.settle();
/// assert!(draft.to_toml().contains("name = \"girth\""));
/// ```
pub fn from_sql(text: &str, table: Option<&str>) -> Result<Draft, DraftFault> {
    let found = statements::read(text);
    let tables: Vec<&CreateTable> = found
        .statements
        .iter()
        .filter_map(|statement| match statement {
            Statement::CreateTable(table) => Some(table),
            _ => None,
        })
        .collect();
    let is_named = |name: &ObjectName, wanted: &str| {
        last(name).eq_ignore_ascii_case(wanted) || name.to_string().eq_ignore_ascii_case(wanted)
    };
    let chosen = match (table, tables.as_slice()) {
        (_, []) => {
            let fault = found.faults.first().map(|fault| format!(" ({fault})")).unwrap_or_default();
            return Err(DraftFault::Nothing(format!("it holds no CREATE TABLE that can be read{fault}")));
        }
        (None, [one]) => *one,
        (None, several) => {
            return Err(DraftFault::Several(several.iter().map(|table| last(&table.name)).collect()));
        }
        (Some(wanted), tables) => tables
            .iter()
            .find(|table| is_named(&table.name, wanted))
            .copied()
            .ok_or_else(|| DraftFault::NoTable(wanted.to_owned()))?,
    };
    let mut reader = Reader { enums: enums(&found.statements), ..Reader::default() };
    reader.draft.record = names::plain(&last(&chosen.name));
    reader.draft.label = Some(last(&chosen.name)).filter(|name| *name != reader.draft.record);
    reader.draft.remarks.push(format!("Drafted from the SQL table {}.", chosen.name));
    for column in &chosen.columns {
        reader.column(column);
    }
    for constraint in &chosen.constraints {
        reader.constraint(constraint);
    }
    for statement in &found.statements {
        reader.later(statement, &chosen.name);
    }
    reader.draft.not_understood.extend(found.faults);
    reader.finish();
    reader.draft.with_fields()
}

#[derive(Default)]
struct Reader {
    draft: Draft,
    /// The first field of each name, in small letters.
    places: HashMap<String, usize>,
    /// Enumerated types: name and values.
    enums: Vec<(String, Vec<String>)>,
    /// Columns whose values the target makes.
    generated: Vec<String>,
    /// Checks that are more than a limit of one column.
    conditions: Vec<DraftRule>,
}

/// The last part of a name: the table without its schema.
fn last(name: &ObjectName) -> String {
    match name.0.last() {
        Some(ObjectNamePart::Identifier(ident)) => ident.value.clone(),
        _ => name.to_string(),
    }
}

fn enums(statements: &[Statement]) -> Vec<(String, Vec<String>)> {
    let found = statements.iter().filter_map(|statement| match statement {
        Statement::CreateType {
            name,
            representation: Some(UserDefinedTypeRepresentation::Enum { labels }),
        } => Some((last(name).to_lowercase(), labels.iter().map(|label| label.value.clone()).collect())),
        _ => None,
    });
    found.collect()
}

fn columns(columns: &[IndexColumn]) -> Vec<String> {
    columns.iter().filter_map(|column| checks::column(&column.column.expr)).collect()
}

fn idents(idents: &[Ident]) -> Vec<String> {
    idents.iter().map(|ident| ident.value.clone()).collect()
}

impl Reader {
    fn field(&mut self, name: &str) -> Option<&mut DraftField> {
        let place = *self.places.get(&name.to_ascii_lowercase())?;
        self.draft.fields.get_mut(place)
    }

    /// The name of a field as its column has it.
    fn named(&self, name: &str) -> String {
        let place = self.places.get(&name.to_ascii_lowercase());
        let field = place.and_then(|place| self.draft.fields.get(*place));
        field.map_or_else(|| name.to_owned(), |field| field.name.clone())
    }

    fn column(&mut self, column: &ColumnDef) {
        let name = column.name.value.clone();
        let field = self.typed(&name, &column.data_type);
        self.places.entry(name.to_ascii_lowercase()).or_insert(self.draft.fields.len());
        self.draft.fields.push(field);
        let (mut is_not_null, mut default) = (false, None);
        for option in &column.options {
            match &option.option {
                ColumnOption::NotNull => is_not_null = true,
                ColumnOption::Null | ColumnOption::Collation(_) | ColumnOption::CharacterSet(_) => {}
                ColumnOption::Default(value) => default = Some(value),
                ColumnOption::PrimaryKey(_) => self.draft.key.push(name.clone()),
                ColumnOption::Unique(_) => self.draft.unique.push(vec![name.clone()]),
                ColumnOption::ForeignKey(to) => self.reference(&name, &last(&to.foreign_table)),
                ColumnOption::Check(check) => self.check(check.name.as_ref(), &check.expr),
                ColumnOption::Comment(comment) => self.set_help(&name, comment),
                ColumnOption::Generated { generated_as, generation_expr, .. } => {
                    let is_always = !matches!(generated_as, GeneratedAs::ByDefault);
                    let by = generation_expr.as_ref().map(|by| format!(" as {by}")).unwrap_or_default();
                    self.make_generated(&name, is_always, &format!("the target computes it{by}"));
                }
                ColumnOption::Identity(_) => self.make_generated(&name, true, "the target numbers it"),
                ColumnOption::DialectSpecific(tokens) => {
                    let words: Vec<String> = tokens.iter().map(ToString::to_string).collect();
                    let words = words.join(" ");
                    if words.to_uppercase().replace(' ', "").contains("AUTO") {
                        self.make_generated(&name, true, "the target numbers it");
                    } else {
                        self.draft.not_understood.push(format!("{name}: {words}"));
                    }
                }
                other => self.draft.not_understood.push(format!("{name}: {other}")),
            }
        }
        let default = default.map(|value| (checks::literal(value), value.to_string()));
        let is_made = default.as_ref().is_some_and(|(literal, text)| literal.is_none() && text != "NULL");
        if is_made && default.as_ref().is_some_and(|(_, text)| text.to_lowercase().contains("nextval")) {
            self.make_generated(&name, true, "the target numbers it");
        }
        let Some(field) = self.field(&name) else { return };
        match default {
            Some((Some(literal), _)) if literal != "NULL" => field.default = Some(literal),
            Some((_, text)) if text != "NULL" => {
                field.remarks.push(format!("DEFAULT {text}: the target fills it when nothing is given"));
            }
            _ => {}
        }
        if is_not_null && is_made {
            field.remarks.push("NOT NULL, but not required here, since the target fills it".to_owned());
        } else if is_not_null {
            field.required = DraftRequired::Always;
        }
    }

    fn set_help(&mut self, name: &str, comment: &str) {
        let comment = comment.trim().to_owned();
        if let Some(field) = self.field(name).filter(|_| !comment.is_empty()) {
            field.help = Some(comment);
        }
    }

    fn make_generated(&mut self, name: &str, is_always: bool, why: &str) {
        self.generated.push(name.to_owned());
        if let Some(field) = self.field(name) {
            field.read_only |= is_always;
            field.remarks.push(why.to_owned());
        }
    }

    fn reference(&mut self, name: &str, to: &str) {
        if let Some(field) = self.field(name) {
            field.kind = KindName::Reference;
            field.to = Some(names::plain(to));
            field.remarks.push(format!("REFERENCES {to}"));
            (field.length, field.digits, field.range) = ((None, None), (None, None), (None, None));
        }
    }

    /// A field of a type.
    fn typed(&mut self, name: &str, data_type: &DataType) -> DraftField {
        let text = data_type.to_string();
        let mut field = DraftField::new(name, KindName::Text);
        let bare = last_word(&text).to_lowercase();
        if let Some((_, values)) = self.enums.iter().find(|known| known.0 == bare) {
            let values = values.iter().map(|value| (value.clone(), None)).collect();
            field.kind = KindName::Picklist;
            field.picklist = Some(self.draft.list(&bare, values));
            field.remarks.push(format!("enumerated type {bare}"));
            return field;
        }
        if let DataType::Enum(..) | DataType::Set(_) = data_type {
            let values: Vec<_> = quoted_parts(&text).into_iter().map(|value| (value, None)).collect();
            field.kind = KindName::Picklist;
            field.picklist = Some(self.draft.list(name, values));
            if matches!(data_type, DataType::Set(_)) {
                field.many = Some((",".to_owned(), None));
            }
            field.remarks.push(text);
            return field;
        }
        let typed = types::read(&text);
        if text.to_lowercase().starts_with("tinyint(1)") {
            field.kind = KindName::Boolean;
            field.remarks.push("TINYINT(1), taken for yes or no".to_owned());
            return field;
        }
        match (typed.kind, data_type) {
            (Some(kind), DataType::Array(_)) => {
                field
                    .remarks
                    .push(format!("{text}: several values; only picklists and references may have them"));
                field.kind = if kind == KindName::Picklist { kind } else { KindName::Text };
                return field;
            }
            (Some(kind), _) => field.kind = kind,
            (None, _) => {
                field.remarks.push(format!("the type {text} was not understood: taken for text"));
                self.draft.not_understood.push(format!("{name}: the type {text}"));
            }
        }
        typed.apply(&mut field);
        let lower = text.to_lowercase();
        if lower.contains("unsigned") {
            field.range.0 = Some("0".to_owned());
        }
        if lower.contains("serial") {
            self.generated.push(name.to_owned());
            field.read_only = true;
            field.remarks.push("the target numbers it".to_owned());
        }
        field
    }

    fn constraint(&mut self, constraint: &TableConstraint) {
        match constraint {
            TableConstraint::PrimaryKey(key) => self.draft.key = columns(&key.columns),
            TableConstraint::Unique(unique) => self.draft.unique.push(columns(&unique.columns)),
            TableConstraint::ForeignKey(foreign) => match idents(&foreign.columns).as_slice() {
                [one] => self.reference(one, &last(&foreign.foreign_table)),
                _ => self.draft.not_understood.push(constraint.to_string()),
            },
            TableConstraint::Check(check) => self.check(check.name.as_ref(), &check.expr),
            other => {
                let text = other.to_string();
                // An index for speed says nothing of values.
                if !text.to_uppercase().starts_with("INDEX") && !text.to_uppercase().starts_with("KEY") {
                    self.draft.not_understood.push(text);
                }
            }
        }
    }

    /// What stands outside of the table's own statement.
    fn later(&mut self, statement: &Statement, table: &ObjectName) {
        let is_it = |name: &ObjectName| last(name).eq_ignore_ascii_case(&last(table));
        match statement {
            Statement::Comment { object_type: CommentObject::Table, object_name, comment, .. }
                if is_it(object_name) =>
            {
                self.draft.remarks.extend(comment.clone());
            }
            Statement::Comment { object_type: CommentObject::Column, object_name, comment, .. } => {
                let part = |part: &ObjectNamePart| match part {
                    ObjectNamePart::Identifier(ident) => ident.value.clone(),
                    other => other.to_string(),
                };
                let parts: Vec<String> = object_name.0.iter().map(part).collect();
                if let [.., of, column] = parts.as_slice()
                    && of.eq_ignore_ascii_case(&last(table))
                    && let Some(comment) = comment
                {
                    self.set_help(column, comment);
                }
            }
            Statement::AlterTable(alter) if is_it(&alter.name) => {
                for operation in &alter.operations {
                    match operation {
                        AlterTableOperation::AddConstraint { constraint, .. } => self.constraint(constraint),
                        AlterTableOperation::AddColumn { column_def, .. } => self.column(column_def),
                        AlterTableOperation::OwnerTo { .. } => {}
                        other => {
                            let text = other.to_string();
                            match (text.to_lowercase().contains("nextval"), text.split_whitespace().nth(2)) {
                                (true, Some(column)) => {
                                    let column = column.trim_matches('"').to_owned();
                                    self.make_generated(&column, true, "the target numbers it");
                                    if let Some(field) = self.field(&column) {
                                        field.required = DraftRequired::No;
                                    }
                                }
                                _ => self.draft.not_understood.push(text),
                            }
                        }
                    }
                }
            }
            Statement::CreateIndex(index) if index.unique && is_it(&index.table_name) => {
                match &index.predicate {
                    None => self.draft.unique.push(columns(&index.columns)),
                    Some(_) => self.draft.not_understood.push(index.to_string()),
                }
            }
            _ => {}
        }
    }

    fn check(&mut self, name: Option<&Ident>, expr: &Expr) {
        for part in checks::conjuncts(expr) {
            if let Some((column, rules)) = checks::between(part)
                && self.field(&column).is_some()
            {
                rules.into_iter().for_each(|rule| self.apply(&column, rule));
                continue;
            }
            match checks::read(part) {
                Some((column, rule)) if self.field(&column).is_some() => self.apply(&column, rule),
                _ => {
                    let must = checks::condition(part);
                    let name = name.map_or_else(|| must.clone(), |name| name.value.replace('_', " "));
                    self.conditions.push(DraftRule { name, must });
                }
            }
        }
    }

    /// What a check says of several columns becomes a rule where the language of conditions has it.
    fn rules(&mut self) {
        let schema = RecordSchema::read(&self.draft.to_toml(), &mut NoLists).ok();
        for mut rule in std::mem::take(&mut self.conditions) {
            match schema.as_ref().map(|schema| condition::parse(&rule.must, schema)) {
                Some(Ok(_)) => {
                    // Parts of one constraint share its name.
                    if self.draft.rules.iter().any(|other| other.name == rule.name) {
                        rule.name = format!("{}: {}", rule.name, rule.must);
                    }
                    self.draft.rules.push(rule);
                }
                _ => self.draft.not_understood.push(format!("CHECK ({})", rule.must)),
            }
        }
    }

    fn apply(&mut self, column: &str, rule: checks::Rule) {
        if let checks::Rule::Among(values) = &rule
            && checks::are_truths(values)
        {
            let Some(field) = self.field(column) else { return };
            field.kind = KindName::Boolean;
            field.remarks.push(format!("one of {}: taken for yes or no", values.join(", ")));
            (field.length, field.digits, field.range) = ((None, None), (None, None), (None, None));
            return;
        }
        if let checks::Rule::Among(values) = rule {
            let name = self.named(column);
            let list = self.draft.list(&name, values.into_iter().map(|value| (value, None)).collect());
            let Some(field) = self.field(column) else { return };
            field.kind = KindName::Picklist;
            field.picklist = Some(list);
            (field.length, field.digits, field.range) = ((None, None), (None, None), (None, None));
            return;
        }
        let Some(field) = self.field(column) else { return };
        let is_whole = field.kind == KindName::Integer;
        match rule {
            checks::Rule::Among(_) => {}
            checks::Rule::From { value, strictly: false } => field.range.0 = Some(value),
            checks::Rule::To { value, strictly: false } => field.range.1 = Some(value),
            checks::Rule::From { value, strictly: true } => match value.parse::<i64>() {
                Ok(number) if is_whole => field.range.0 = Some((number + 1).to_string()),
                _ => {
                    field.remarks.push(format!("CHECK ({column} > {value}): the range includes its end"));
                    field.range.0 = Some(value);
                }
            },
            checks::Rule::To { value, strictly: true } => match value.parse::<i64>() {
                Ok(number) if is_whole => field.range.1 = Some((number - 1).to_string()),
                _ => {
                    field.remarks.push(format!("CHECK ({column} < {value}): the range includes its end"));
                    field.range.1 = Some(value);
                }
            },
            checks::Rule::Length { least, most } => {
                field.length.0 = least.or(field.length.0);
                field.length.1 = most.or(field.length.1);
            }
            checks::Rule::Pattern(pattern) => field.pattern = Some(pattern),
            checks::Rule::NotNull => field.required = DraftRequired::Always,
        }
    }

    /// What only the whole table tells: a key that the target makes is none for a file.
    fn finish(&mut self) {
        self.draft.key = self.draft.key.clone().iter().map(|name| self.named(name)).collect();
        let unique = std::mem::take(&mut self.draft.unique);
        self.draft.unique =
            unique.iter().map(|set| set.iter().map(|name| self.named(name)).collect()).collect();
        let is_made = |name: &String| self.generated.iter().any(|made| made.eq_ignore_ascii_case(name));
        if !self.draft.key.is_empty() && self.draft.key.iter().all(is_made) {
            let made = self.draft.key.join(", ");
            let other = self.draft.unique.iter().find(|set| !set.iter().any(is_made)).cloned();
            let says = match &other {
                Some(other) => format!(
                    "the primary key {made} is numbered by the target; {} is unique and was taken as the key",
                    other.join(", ")
                ),
                None => {
                    format!("the primary key {made} is numbered by the target: name a key that files carry")
                }
            };
            self.draft.key_remarks.push(says);
            self.draft.key = other.unwrap_or_default();
        }
        self.draft.settle();
        self.rules();
    }
}

fn last_word(text: &str) -> &str {
    text.rsplit('.').next().unwrap_or(text).trim_matches('"')
}

/// The texts in single quotes.
fn quoted_parts(text: &str) -> Vec<String> {
    text.split('\'').skip(1).step_by(2).map(ToOwned::to_owned).collect()
}
