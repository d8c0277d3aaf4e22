//! The shape of a record schema file: which keys there are and what type each has. Everything is optional
//! here, so that one missing key hides no other fault; what is needed is tested in `check`.

pub use super::kinds::KindName;
use super::required::Required;
use schemars::JsonSchema;
use serde::Deserialize;
use std::collections::BTreeMap;
use toml::Spanned;

type At<T> = Option<Spanned<T>>;

/// A record schema: the target's description of one kind of record, `NAME.record.toml`.
#[derive(Debug, Clone, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct RawRecord {
    /// The version of this format: 1. Needed.
    #[schemars(with = "Option<u32>")]
    pub format: At<i64>,
    /// The technical name of the record. Needed.
    #[schemars(with = "Option<String>")]
    pub record: At<String>,
    /// The name people use; the technical name, when left out.
    pub label: Option<String>,
    /// The version of this schema, in the owner's own numbering.
    pub version: Option<String>,
    /// The names of the fields that identify a record.
    #[schemars(with = "Option<Vec<String>>")]
    pub key: At<Vec<Spanned<String>>>,
    /// Further combinations of fields that must not repeat.
    #[schemars(with = "Option<Vec<Vec<String>>>")]
    pub unique: Option<Vec<Spanned<Vec<Spanned<String>>>>>,
    /// Unique fields that may stand for the key: whatever has one is found by it where the key is blank, and references to
    /// the record may use it.
    #[schemars(with = "Option<Vec<String>>")]
    pub also_by: At<Vec<Spanned<String>>>,
    /// The fields that together make a likely duplicate.
    #[schemars(with = "Option<Vec<String>>")]
    pub alike: At<Vec<Spanned<String>>>,
    /// The fields.
    #[schemars(with = "Option<Vec<RawField>>")]
    pub field: Option<Vec<Spanned<RawField>>>,
    /// The picklists, by name.
    #[schemars(with = "BTreeMap<String, RawPicklist>")]
    pub picklist: BTreeMap<String, Spanned<RawPicklist>>,
    /// Conditions between the fields of one row.
    #[schemars(with = "Option<Vec<RawRule>>")]
    pub rule: Option<Vec<Spanned<RawRule>>>,
    /// Blocks of fields that are filled as a whole or not at all.
    #[schemars(with = "Option<Vec<RawTogether>>")]
    pub together: Option<Vec<Spanned<RawTogether>>>,
    /// Permitted pairs, or triples, of picklist values.
    #[schemars(with = "Option<Vec<RawCombination>>")]
    pub combination: Option<Vec<Spanned<RawCombination>>>,
    /// Several rows of a file make one record.
    #[schemars(with = "Option<RawLines>")]
    pub lines: At<RawLines>,
}

/// What a rule sees.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
#[expect(missing_docs, reason = "the names say it")]
pub enum RawSees {
    Record,
    Cells,
}

/// Several rows of a file make one record: a header with its lines.
#[derive(Debug, Clone, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct RawLines {
    /// The fields that have one value a record, the key among them; blank below the first row means "as above". Needed.
    #[schemars(with = "Option<Vec<String>>")]
    pub header: At<Vec<Spanned<String>>>,
    /// The fields that must not repeat within one record.
    #[schemars(with = "Option<Vec<String>>")]
    pub key: At<Vec<Spanned<String>>>,
    /// How many lines a record may have.
    #[schemars(with = "Option<RawCount>")]
    pub count: At<RawCount>,
}

/// A permitted number, ends included; either may be left out.
#[derive(Debug, Clone, Copy, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct RawCount {
    /// The least.
    pub min: Option<u32>,
    /// The most.
    pub max: Option<u32>,
}

/// A condition between the fields of one row.
#[derive(Debug, Clone, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct RawRule {
    /// The name of the rule, for messages. Needed.
    #[schemars(with = "Option<String>")]
    pub name: At<String>,
    /// The rule applies where this condition holds; everywhere, when left out.
    #[schemars(with = "Option<String>")]
    pub when: At<String>,
    /// Fields that must be filled then.
    #[schemars(with = "Option<Vec<String>>")]
    pub require: At<Vec<Spanned<String>>>,
    /// Fields that must be blank then.
    #[schemars(with = "Option<Vec<String>>")]
    pub forbid: At<Vec<Spanned<String>>>,
    /// A condition that must hold then.
    #[schemars(with = "Option<String>")]
    pub must: At<String>,
    /// stop, warn or note; stop, when left out.
    pub level: Option<RawLevel>,
    /// record: the record as it would be after the load; cells: what the file says, and nothing else. record, when left
    /// out.
    pub sees: Option<RawSees>,
    /// What to say when it is broken.
    pub message: Option<String>,
}

/// How grave a broken rule is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
#[expect(missing_docs, reason = "the names say it")]
pub enum RawLevel {
    Stop,
    Warn,
    Note,
}

/// A block of fields: filled as a whole or not at all.
#[derive(Debug, Clone, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct RawTogether {
    /// The name of the block. Needed.
    #[schemars(with = "Option<String>")]
    pub name: At<String>,
    /// Its fields. Needed.
    #[schemars(with = "Option<Vec<String>>")]
    pub fields: At<Vec<Spanned<String>>>,
    /// The fields that are required as soon as any of the block is filled; all, when left out.
    #[schemars(with = "Option<Vec<String>>")]
    pub needs: At<Vec<Spanned<String>>>,
}

/// Permitted pairs, or triples, of picklist values.
#[derive(Debug, Clone, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct RawCombination {
    /// The name of the combination. Needed.
    #[schemars(with = "Option<String>")]
    pub name: At<String>,
    /// Its fields, two at least. Needed.
    #[schemars(with = "Option<Vec<String>>")]
    pub fields: At<Vec<Spanned<String>>>,
    /// The permitted values, by code.
    #[schemars(with = "Option<Vec<Vec<String>>>")]
    pub allowed: Option<Vec<Spanned<Vec<String>>>>,
    /// A CSV file with the permitted values, the fields' names as headings.
    #[schemars(with = "Option<String>")]
    pub file: At<String>,
}

/// One attribute of the record.
#[derive(Debug, Clone, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct RawField {
    /// The target's own technical name, exactly. Needed.
    #[schemars(with = "Option<String>")]
    pub name: At<String>,
    /// The name people use; the technical name, when left out.
    #[schemars(with = "Option<String>")]
    pub label: At<String>,
    /// Other headings seen for it.
    #[schemars(with = "Option<Vec<String>>")]
    pub also: Option<Vec<Spanned<String>>>,
    /// What its values are. Needed.
    #[schemars(with = "Option<KindName>")]
    pub kind: At<KindName>,
    /// true, false, "add", "advised", or "always": the cell must be filled when updating too.
    #[schemars(with = "Option<RequiredShape>")]
    pub required: At<RawRequired>,
    /// The value for blank cells and an absent column, when adding.
    #[schemars(with = "Option<ScalarShape>")]
    pub default: At<toml::Value>,
    /// true: the target computes it, and a load must not carry it; "update": it may be set when adding, and must not
    /// change later.
    #[schemars(with = "Option<ReadOnlyShape>")]
    pub read_only: Option<RawReadOnly>,
    /// A field of the key, or of the key of a line: the target gives the number, and a blank one is a new record or line.
    pub numbered: Option<bool>,
    /// Masked in every output but the rows themselves.
    pub sensitive: Option<bool>,
    /// Suspicions not wanted for this field.
    #[schemars(with = "Option<Vec<String>>")]
    pub ignore: Option<Vec<Spanned<String>>>,
    /// What people should know when they fill it.
    pub help: Option<String>,
    /// A value that shows the form.
    #[schemars(with = "Option<ScalarShape>")]
    pub example: At<toml::Value>,
    /// Text: a regular expression that the whole value must match.
    #[schemars(with = "Option<String>")]
    pub pattern: At<String>,
    /// Text: the pattern in words.
    #[schemars(with = "Option<String>")]
    pub pattern_says: At<String>,
    /// Text: upper, lower or any.
    #[schemars(with = "Option<RawCase>")]
    pub case: At<RawCase>,
    /// Text, email, url, uuid: the permitted length.
    #[schemars(with = "Option<RawLength>")]
    pub length: At<RawLength>,
    /// Decimal: the most digits before and after the point.
    #[schemars(with = "Option<RawDigits>")]
    pub digits: At<RawDigits>,
    /// Numbers, dates and times: the permitted range, ends included.
    #[schemars(with = "Option<RawRange>")]
    pub range: At<RawRange>,
    /// Decimal: "12.5 %" is read as 12.5.
    #[schemars(with = "Option<bool>")]
    pub percent: At<bool>,
    /// Decimal: marks permitted before or after the number.
    #[schemars(with = "Option<Vec<String>>")]
    pub currency: At<Vec<String>>,
    /// Date, datetime: the field's own forms, as Unicode LDML patterns.
    #[schemars(with = "Option<Vec<String>>")]
    pub dates: At<Vec<Spanned<String>>>,
    /// Time: the field's own forms.
    #[schemars(with = "Option<Vec<String>>")]
    pub times: At<Vec<Spanned<String>>>,
    /// Duration: the unit of numbers, such as "min". Integer, decimal: the unit that `mend` takes away, such as "cm".
    #[schemars(with = "Option<String>")]
    pub unit: At<String>,
    /// Picklist: the name of the list.
    #[schemars(with = "Option<String>")]
    pub picklist: At<String>,
    /// Picklist, reference: several values in one cell.
    #[schemars(with = "Option<RawMany>")]
    pub many: At<RawMany>,
    /// Reference: the record it must be the key of.
    #[schemars(with = "Option<String>")]
    pub to: At<String>,
    /// Phone: the region whose national forms are read too.
    #[schemars(with = "Option<String>")]
    pub region: At<String>,
}

/// Whether a record must have a field.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct RawRequired(pub Required);

impl<'de> Deserialize<'de> for RawRequired {
    fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct Visitor;
        impl serde::de::Visitor<'_> for Visitor {
            type Value = RawRequired;

            fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                f.write_str("true, false, \"add\", \"advised\" or \"always\"")
            }

            fn visit_bool<E>(self, value: bool) -> Result<RawRequired, E> {
                Ok(RawRequired(if value { Required::Always } else { Required::No }))
            }

            fn visit_str<E: serde::de::Error>(self, value: &str) -> Result<RawRequired, E> {
                match value {
                    "add" => Ok(RawRequired(Required::WhenAdding)),
                    "advised" => Ok(RawRequired(Required::Advised)),
                    "always" => Ok(RawRequired(Required::Filled)),
                    _ => Err(E::invalid_value(serde::de::Unexpected::Str(value), &self)),
                }
            }
        }
        deserializer.deserialize_any(Visitor)
    }
}

/// When a field may not be set.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum RawReadOnly {
    /// Whenever one likes.
    No,
    /// Not once the record is there.
    WhenUpdating,
    /// Never.
    Always,
}

impl<'de> Deserialize<'de> for RawReadOnly {
    fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct Visitor;
        impl serde::de::Visitor<'_> for Visitor {
            type Value = RawReadOnly;

            fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                f.write_str("true, false or \"update\"")
            }

            fn visit_bool<E>(self, value: bool) -> Result<RawReadOnly, E> {
                Ok(if value { RawReadOnly::Always } else { RawReadOnly::No })
            }

            fn visit_str<E: serde::de::Error>(self, value: &str) -> Result<RawReadOnly, E> {
                match value {
                    "update" => Ok(RawReadOnly::WhenUpdating),
                    _ => Err(E::invalid_value(serde::de::Unexpected::Str(value), &self)),
                }
            }
        }
        deserializer.deserialize_any(Visitor)
    }
}

#[derive(JsonSchema)]
#[serde(untagged)]
#[expect(dead_code, reason = "shows the shape in the JSON Schema")]
enum ReadOnlyShape {
    Plain(bool),
    Word(ReadOnlyWord),
}

#[derive(JsonSchema)]
#[serde(rename_all = "lowercase")]
#[expect(dead_code, reason = "shows the shape in the JSON Schema")]
enum ReadOnlyWord {
    Update,
}

#[derive(JsonSchema)]
#[serde(untagged)]
#[expect(dead_code, reason = "shows the shape in the JSON Schema")]
enum RequiredShape {
    Plain(bool),
    Word(RequiredWord),
}

#[derive(JsonSchema)]
#[serde(rename_all = "lowercase")]
#[expect(dead_code, reason = "shows the shape in the JSON Schema")]
enum RequiredWord {
    Add,
    Advised,
    Always,
}

#[derive(JsonSchema)]
#[serde(untagged)]
#[expect(dead_code, reason = "shows the shape in the JSON Schema")]
pub(crate) enum ScalarShape {
    Text(String),
    Number(f64),
    Truth(bool),
}

/// The case of a text.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
#[expect(missing_docs, reason = "the names say it")]
pub enum RawCase {
    Upper,
    Lower,
    Any,
}

/// The permitted length of a text.
#[derive(Debug, Clone, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct RawLength {
    /// The least.
    #[schemars(with = "Option<u32>")]
    pub min: At<u32>,
    /// The most.
    pub max: Option<u32>,
    /// What is counted: character (Unicode code points), byte, utf-16.
    pub unit: Option<RawUnit>,
}

/// What a length counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
#[expect(missing_docs, reason = "the names say it")]
pub enum RawUnit {
    Character,
    Byte,
    #[serde(rename = "utf-16")]
    Utf16,
}

/// The most digits of a decimal; zeros that carry nothing do not count.
#[derive(Debug, Clone, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct RawDigits {
    /// Before the point.
    pub before: Option<u32>,
    /// After the point.
    pub after: Option<u32>,
}

/// A range, ends included; either may be left out.
#[derive(Debug, Clone, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct RawRange {
    /// The lowest permitted value: a number, a TOML date or ISO text, or "today".
    #[schemars(with = "Option<ScalarShape>")]
    pub min: At<toml::Value>,
    /// The highest permitted value.
    #[schemars(with = "Option<ScalarShape>")]
    pub max: At<toml::Value>,
}

/// Several values in one cell.
#[derive(Debug, Clone, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct RawMany {
    /// What stands between two values.
    pub separator: Option<String>,
    /// The most values in one cell.
    pub max: Option<u32>,
}

/// A list of permitted values: inline, from a CSV file, or a standard list.
#[derive(Debug, Clone, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct RawPicklist {
    /// A value not on the list only warns.
    pub open: Option<bool>,
    /// Only the code counts, letter by letter.
    pub exact: Option<bool>,
    /// The values.
    #[schemars(with = "Option<Vec<RawValue>>")]
    pub values: At<Vec<Spanned<RawValue>>>,
    /// A CSV file or a workbook that holds them, relative to the schema.
    #[schemars(with = "Option<String>")]
    pub file: At<String>,
    /// The sheet of the workbook.
    #[schemars(with = "Option<String>")]
    pub sheet: At<String>,
    /// The heading of its column of codes; "code", when left out.
    #[schemars(with = "Option<String>")]
    pub code: At<String>,
    /// The heading of its column of labels.
    #[schemars(with = "Option<String>")]
    pub label: At<String>,
    /// A standard list.
    #[schemars(with = "Option<RawStandard>")]
    pub standard: At<RawStandard>,
}

/// A standard list.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, JsonSchema)]
#[expect(missing_docs, reason = "the names say it")]
pub enum RawStandard {
    #[serde(rename = "iso-3166-1")]
    Iso3166,
    #[serde(rename = "iso-3166-1-alpha-3")]
    Iso3166Alpha3,
    #[serde(rename = "iso-4217")]
    Iso4217,
    #[serde(rename = "iso-639-1")]
    Iso639,
}

/// One permitted value.
#[derive(Debug, Clone, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct RawValue {
    /// What the target stores. Needed.
    pub code: Option<String>,
    /// What people read.
    pub label: Option<String>,
    /// Other words for it.
    pub also: Option<Vec<String>>,
    /// New records may no longer carry it.
    pub retired: Option<bool>,
}
