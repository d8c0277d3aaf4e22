//! The shape of a plan file. Everything is optional here, so that one missing key hides no other fault.

use schemars::JsonSchema;
use serde::Deserialize;
use std::collections::BTreeMap;
use toml::Spanned;

type At<T> = Option<Spanned<T>>;

/// A plan: how one recurring file is read and paired, and what it may change, `NAME.plan.toml`.
#[derive(Debug, Clone, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct RawPlan {
    /// The version of this format: 1. Needed.
    #[schemars(with = "Option<u32>")]
    pub format: At<i64>,
    /// The record schema, relative to the plan. Needed unless it is named beside the plan.
    #[schemars(with = "Option<String>")]
    pub record: At<String>,
    /// add, update or both; add when left out.
    #[schemars(with = "Option<RawMode>")]
    pub mode: At<RawMode>,
    /// How the file is laid out; what is left out is detected and said.
    pub file: RawFile,
    /// How cells are read.
    pub read: RawRead,
    /// Words of the sender's and what stands in their place: the value of a field, or nothing (""). Each table is of one
    /// field; `exact = true` in it tells words apart letter by letter.
    #[schemars(with = "BTreeMap<String, BTreeMap<String, crate::schema::raw::ScalarShape>>")]
    pub values: BTreeMap<String, Spanned<BTreeMap<String, Spanned<toml::Value>>>>,
    /// The field of each heading; false leaves a column out on purpose. "@K" names a column by its letter.
    #[schemars(with = "BTreeMap<String, TargetShape>")]
    pub columns: BTreeMap<String, Spanned<RawTarget>>,
    /// Values for blank cells and fields without a column, when adding; over those of the record schema.
    #[schemars(with = "BTreeMap<String, crate::schema::raw::ScalarShape>")]
    pub defaults: BTreeMap<String, Spanned<toml::Value>>,
    /// What becomes of rows with the same key.
    pub repeats: RawRepeats,
    /// What the file may change; anything else is a stop.
    pub scope: Option<RawScope>,
    /// What the target already holds.
    #[schemars(with = "Option<RawExisting>")]
    pub existing: At<RawExisting>,
    /// Where the values of references come from.
    #[schemars(with = "BTreeMap<String, RawReference>")]
    pub references: BTreeMap<String, Spanned<RawReference>>,
    /// How ready files are written.
    pub write: RawWrite,
    /// When the gate opens.
    pub gate: RawGate,
}

/// What loading the file would do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
#[expect(missing_docs, reason = "the names say it")]
pub enum RawMode {
    Add,
    Update,
    Both,
}

/// How the file is laid out.
#[derive(Debug, Clone, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct RawFile {
    /// The sheet of a workbook.
    pub sheet: Option<String>,
    /// Where the array of records of a JSON file stands, as a JSON Pointer (RFC 6901).
    pub at: Option<String>,
    /// The row that holds the headings.
    #[schemars(with = "Option<u64>")]
    pub heading_row: At<u64>,
    /// The first row of the data.
    #[schemars(with = "Option<u64>")]
    pub first_row: At<u64>,
    /// The last row of the data.
    #[schemars(with = "Option<u64>")]
    pub last_row: At<u64>,
    /// A row of the data that is an example, and no record.
    #[schemars(with = "Option<u64>")]
    pub example_row: At<u64>,
    /// What stands between cells.
    #[schemars(with = "Option<String>")]
    pub delimiter: At<String>,
    /// The encoding, by a name of the WHATWG Encoding Standard.
    #[schemars(with = "Option<String>")]
    pub encoding: At<String>,
    /// No heading row: `[columns]` uses "1", "2" or "A", "B".
    pub by_position: Option<bool>,
    /// "hold" or "blank": cells missing at a row's end are blank.
    #[schemars(with = "Option<RawShortRows>")]
    pub short_rows: At<RawShortRows>,
}

/// What becomes of rows whose last cells are missing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
#[expect(missing_docs, reason = "the names say it")]
pub enum RawShortRows {
    Hold,
    Blank,
}

/// How cells are read.
#[derive(Debug, Clone, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct RawRead {
    /// The forms of dates, as Unicode LDML patterns.
    #[schemars(with = "Option<Vec<String>>")]
    pub dates: Option<Vec<Spanned<String>>>,
    /// The forms of times.
    #[schemars(with = "Option<Vec<String>>")]
    pub times: Option<Vec<Spanned<String>>>,
    /// The CLDR language of month names.
    #[schemars(with = "Option<String>")]
    pub language: At<String>,
    /// The time zone of datetimes without an offset.
    #[schemars(with = "Option<String>")]
    pub zone: At<String>,
    /// What begins decimals: "." or ",".
    #[schemars(with = "Option<String>")]
    pub decimal_mark: At<String>,
    /// What parts thousands; " " stands for all spaces used so, "'" for both apostrophes.
    #[schemars(with = "Option<String>")]
    pub group_mark: At<String>,
    /// Cells that count as blank.
    #[schemars(with = "Option<Vec<String>>")]
    pub blank: Option<Vec<Spanned<String>>>,
    /// Update: the cell that empties a field.
    #[schemars(with = "Option<String>")]
    pub clear: At<String>,
    /// The words for yes, in any case.
    #[schemars(with = "Option<Vec<String>>")]
    pub r#true: Option<Vec<Spanned<String>>>,
    /// The words for no, in any case.
    #[schemars(with = "Option<Vec<String>>")]
    pub r#false: Option<Vec<Spanned<String>>>,
    /// Whether outer spaces are no matter.
    pub trim: Option<bool>,
    /// The same keys for one field.
    #[schemars(with = "BTreeMap<String, RawRead>")]
    pub fields: BTreeMap<String, Spanned<RawRead>>,
}

/// The field of a column, or false.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum RawTarget {
    /// The name of a field.
    Field(String),
    /// Left out on purpose.
    LeftOut,
}

impl<'de> Deserialize<'de> for RawTarget {
    fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct Visitor;
        impl serde::de::Visitor<'_> for Visitor {
            type Value = RawTarget;

            fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                f.write_str("the name of a field, or false")
            }

            fn visit_bool<E: serde::de::Error>(self, value: bool) -> Result<RawTarget, E> {
                match value {
                    false => Ok(RawTarget::LeftOut),
                    true => Err(E::invalid_value(serde::de::Unexpected::Bool(true), &self)),
                }
            }

            fn visit_str<E>(self, value: &str) -> Result<RawTarget, E> {
                Ok(RawTarget::Field(value.to_owned()))
            }
        }
        deserializer.deserialize_any(Visitor)
    }
}

#[derive(JsonSchema)]
#[serde(untagged)]
#[expect(dead_code, reason = "shows the shape in the JSON Schema")]
enum TargetShape {
    Field(String),
    LeftOut(bool),
}

/// What becomes of rows with the same key.
#[derive(Debug, Clone, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct RawRepeats {
    /// none: all are held; first or last: the others are left out.
    #[schemars(with = "Option<RawStands>")]
    pub stands: At<RawStands>,
}

/// Which of the rows with the same key stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
#[expect(missing_docs, reason = "the names say it")]
pub enum RawStands {
    None,
    First,
    Last,
}

/// What the file may change.
#[derive(Debug, Clone, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct RawScope {
    /// The fields it may touch; the key always.
    #[schemars(with = "Option<Vec<String>>")]
    pub fields: Option<Vec<Spanned<String>>>,
    /// The modes it may be loaded in.
    #[schemars(with = "Option<Vec<RawMode>>")]
    pub modes: At<Vec<RawMode>>,
    /// A condition on the records it may touch.
    #[schemars(with = "Option<String>")]
    pub r#where: At<String>,
    /// What becomes of rows outside: leave-out or hold.
    pub outside: Option<RawRest>,
}

/// What becomes of rows that are not meant.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
#[expect(missing_docs, reason = "the names say it")]
pub enum RawRest {
    Hold,
    LeaveOut,
}

/// What the target already holds: one of file, sqlite, postgres.
#[derive(Debug, Clone, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct RawExisting {
    /// An export.
    #[schemars(with = "Option<String>")]
    pub file: At<String>,
    /// An SQLite database.
    #[schemars(with = "Option<String>")]
    pub sqlite: At<String>,
    /// A PostgreSQL database: "env:VARIABLE" that holds its URL, or "" for the environment of its own programs.
    #[schemars(with = "Option<String>")]
    pub postgres: At<String>,
    /// The table of a database.
    #[schemars(with = "Option<String>")]
    pub table: At<String>,
    /// A plan by which the export is read.
    pub plan: Option<String>,
    /// The columns of the source that are fields of another name.
    #[schemars(with = "BTreeMap<String, String>")]
    pub columns: BTreeMap<String, Spanned<String>>,
    /// Update rows whose key is not there: hold or leave-out.
    pub unmatched: Option<RawRest>,
    /// all, or blank-only: what the record already has stays.
    #[schemars(with = "Option<RawOverwrite>")]
    pub overwrite: At<RawOverwrite>,
    /// Files of ready rows that were handed over earlier, which count as there.
    pub released: Vec<String>,
}

/// What an update may overwrite.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
#[expect(missing_docs, reason = "the names say it")]
pub enum RawOverwrite {
    All,
    BlankOnly,
}

/// Where the values of a reference come from.
#[derive(Debug, Clone, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct RawReference {
    /// A CSV file or a workbook.
    #[schemars(with = "Option<String>")]
    pub file: At<String>,
    /// An SQLite database.
    #[schemars(with = "Option<String>")]
    pub sqlite: At<String>,
    /// A PostgreSQL database, named as under `[existing]`.
    #[schemars(with = "Option<String>")]
    pub postgres: At<String>,
    /// The table of a database.
    #[schemars(with = "Option<String>")]
    pub table: At<String>,
    /// The sheet of a workbook.
    pub sheet: Option<String>,
    /// The column that holds the key. Needed.
    #[schemars(with = "Option<String>")]
    pub column: At<String>,
    /// Columns whose values may stand for the key, if they are unique.
    pub also_by: Option<Vec<String>>,
}

/// How ready files are written.
#[derive(Debug, Clone, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct RawWrite {
    /// name or label.
    pub headings: Option<RawHeadings>,
    /// Picklist values: code or label.
    pub values: Option<RawValues>,
    /// The form of dates.
    #[schemars(with = "Option<String>")]
    pub dates: At<String>,
    /// What begins decimals.
    #[schemars(with = "Option<String>")]
    pub decimal_mark: At<String>,
    /// What stands between cells.
    #[schemars(with = "Option<String>")]
    pub delimiter: At<String>,
    /// The encoding.
    #[schemars(with = "Option<String>")]
    pub encoding: At<String>,
    /// An export of the target, relative to the plan: what is not stated here is taken over from it.
    pub like: Option<String>,
    /// The columns, by the names of their fields; "" is a blank one.
    #[schemars(with = "Option<Vec<String>>")]
    pub columns: Option<Vec<Spanned<String>>>,
    /// The word for yes.
    pub r#true: Option<String>,
    /// The word for no.
    pub r#false: Option<String>,
    /// lf, crlf or cr.
    pub line_end: Option<RawLineEnd>,
    /// all: every cell stands in quotes; needed, when left out.
    pub quote: Option<RawQuote>,
}

/// What ends the lines of ready files.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
#[expect(missing_docs, reason = "the names say it")]
pub enum RawLineEnd {
    Lf,
    Crlf,
    Cr,
}

/// Which cells of ready files stand in quotes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
#[expect(missing_docs, reason = "the names say it")]
pub enum RawQuote {
    Needed,
    All,
}

/// The headings of ready files.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
#[expect(missing_docs, reason = "the names say it")]
pub enum RawHeadings {
    Name,
    Label,
}

/// The picklist values of ready files.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
#[expect(missing_docs, reason = "the names say it")]
pub enum RawValues {
    Code,
    Label,
}

/// When the gate opens.
#[derive(Debug, Clone, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct RawGate {
    /// A share of the rows such as "2%", or a number of rows, that may be held.
    #[schemars(with = "Option<crate::schema::raw::ScalarShape>")]
    pub tolerate: At<toml::Value>,
    /// The level of findings, by code.
    #[schemars(with = "BTreeMap<String, RawLevel>")]
    pub levels: BTreeMap<String, Spanned<RawLevel>>,
}

/// A level.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
#[expect(missing_docs, reason = "the names say it")]
pub enum RawLevel {
    Stop,
    Warn,
    Note,
}
