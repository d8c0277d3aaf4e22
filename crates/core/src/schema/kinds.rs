//! The kinds by name, and what each is called elsewhere: one row a kind, from which exports, drafts and conditions take
//! their words.

use crate::condition::model::Type;
use schemars::JsonSchema;
use serde::Deserialize;

/// What a kind is called in the world.
#[derive(Debug, Clone, Copy)]
pub struct KindFacts {
    /// Its name in a record schema.
    pub name: &'static str,
    /// What people call it.
    pub people: &'static str,
    /// Its type in JSON Schema (draft 2020-12), and its format.
    pub json: (&'static str, Option<&'static str>),
    /// The formats of JSON Schema that are read as it.
    pub formats: &'static [&'static str],
    /// The datatype of CSV on the Web that it is written as (Metadata Vocabulary for Tabular Data, 5.11).
    pub csvw: &'static str,
    /// Those that are read as it.
    pub bases: &'static [&'static str],
    /// What conditions see of its values.
    pub seen: Type,
    /// What types of SQL and of data dictionaries call it.
    pub words: &'static [&'static str],
}

macro_rules! kinds {
    ($($kind:ident $facts:tt)*) => {
        /// The name of a kind.
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, JsonSchema)]
        #[serde(rename_all = "lowercase")]
        #[expect(missing_docs, reason = "the names say it")]
        pub enum KindName {
            $($kind,)*
        }

        impl KindName {
            /// All kinds.
            pub const ALL: &[Self] = &[$(Self::$kind,)*];

            /// What the kind is called elsewhere.
            #[must_use]
            pub const fn facts(self) -> &'static KindFacts {
                match self {
                    $(Self::$kind => &kinds!(@row $facts),)*
                }
            }
        }
    };
    (@row { $($facts:tt)* }) => { KindFacts { $($facts)* } };
}

kinds! {
    Text {
        name: "text",
        people: "text",
        json: ("string", None),
        formats: &[],
        csvw: "string",
        bases: &["string", "normalizedString", "token", "language", "Name", "NMTOKEN", "any", "anyAtomicType"],
        seen: Type::Text,
        words: &["text", "string", "varchar", "char", "memo", "alphanumeric", "free text", "character", "character varying"],
    }
    Integer {
        name: "integer",
        people: "whole number",
        json: ("integer", None),
        formats: &[],
        csvw: "integer",
        bases: &["integer", "long", "int", "short", "byte"],
        seen: Type::Number,
        words: &["bigint", "smallint", "tinyint", "integer", "int", "int2", "int4", "int8", "long", "serial", "bigserial", "whole number", "autonumber", "count", "mediumint"],
    }
    Decimal {
        name: "decimal",
        people: "decimal",
        json: ("number", None),
        formats: &[],
        csvw: "decimal",
        bases: &["decimal", "number", "double", "float"],
        seen: Type::Number,
        words: &["decimal", "dec", "num", "numeric", "number", "float", "double", "double precision", "real", "money", "currency", "amount", "percent", "percentage"],
    }
    Boolean {
        name: "boolean",
        people: "yes or no",
        json: ("boolean", None),
        formats: &[],
        csvw: "boolean",
        bases: &["boolean"],
        seen: Type::Boolean,
        words: &["boolean", "bool", "bit", "yes no", "y n", "true false", "logical", "flag", "checkbox"],
    }
    Date {
        name: "date",
        people: "date",
        json: ("string", Some("date")),
        formats: &["date"],
        csvw: "date",
        bases: &["date"],
        seen: Type::Date,
        words: &["date", "day"],
    }
    Datetime {
        name: "datetime",
        people: "date and time",
        json: ("string", Some("date-time")),
        formats: &["date-time"],
        csvw: "dateTime",
        bases: &["dateTime", "datetime", "dateTimeStamp"],
        seen: Type::Moment,
        words: &["datetime", "date time", "timestamp", "timestamptz"],
    }
    Time {
        name: "time",
        people: "time",
        json: ("string", Some("time")),
        formats: &["time"],
        csvw: "time",
        bases: &["time"],
        seen: Type::Time,
        words: &["time"],
    }
    Duration {
        name: "duration",
        people: "length of time",
        json: ("string", Some("duration")),
        formats: &["duration"],
        csvw: "duration",
        bases: &["duration", "dayTimeDuration", "yearMonthDuration"],
        // In seconds.
        seen: Type::Number,
        words: &["duration", "interval", "length of time"],
    }
    Picklist {
        name: "picklist",
        people: "picklist",
        json: ("string", None),
        formats: &[],
        csvw: "string",
        bases: &[],
        seen: Type::Text,
        words: &["picklist", "pick list", "dropdown", "drop down", "enum", "enumeration", "choice", "code list", "coded", "list", "option", "select"],
    }
    Reference {
        name: "reference",
        people: "reference",
        json: ("string", None),
        formats: &[],
        csvw: "string",
        bases: &[],
        seen: Type::Text,
        words: &["reference", "lookup", "foreign key"],
    }
    Email {
        name: "email",
        people: "e-mail address",
        json: ("string", Some("email")),
        formats: &["email", "idn-email"],
        csvw: "string",
        bases: &[],
        seen: Type::Text,
        words: &["email", "e mail", "mail"],
    }
    Phone {
        name: "phone",
        people: "phone number",
        json: ("string", None),
        formats: &[],
        csvw: "string",
        bases: &[],
        seen: Type::Text,
        words: &["phone", "telephone"],
    }
    Url {
        name: "url",
        people: "web address",
        json: ("string", Some("uri")),
        formats: &["uri", "iri", "uri-reference", "url"],
        csvw: "anyURI",
        bases: &["anyURI"],
        seen: Type::Text,
        words: &["url", "uri", "link", "hyperlink", "web address"],
    }
    Uuid {
        name: "uuid",
        people: "uuid",
        json: ("string", Some("uuid")),
        formats: &["uuid"],
        csvw: "string",
        bases: &[],
        seen: Type::Text,
        words: &["uuid", "guid", "uniqueidentifier"],
    }
}

impl KindName {
    /// The name as it is written.
    #[must_use]
    pub const fn name(self) -> &'static str {
        self.facts().name
    }

    /// Whether its values are numbers.
    #[must_use]
    pub fn is_number(self) -> bool {
        matches!(self.facts().json.0, "integer" | "number")
    }

    /// The kinds that are told apart by their words, plain text last.
    pub(crate) fn by_words() -> impl Iterator<Item = Self> {
        let (text, others): (Vec<Self>, Vec<Self>) = Self::ALL.iter().partition(|kind| **kind == Self::Text);
        others.into_iter().chain(text)
    }
}

/// The keys of a field that only some kinds have, and which.
pub(crate) const OWN_KEYS: [(&str, &[KindName]); 15] = {
    use KindName::{
        Date, Datetime, Decimal, Duration, Email, Integer, Phone, Picklist, Reference, Text, Time, Url, Uuid,
    };
    [
        ("pattern", &[Text]),
        ("pattern_says", &[Text]),
        ("case", &[Text]),
        ("length", &[Text, Email, Url, Uuid]),
        ("range", &[Integer, Decimal, Date, Datetime, Time, Duration]),
        ("unit", &[Duration, Integer, Decimal]),
        ("digits", &[Decimal]),
        ("percent", &[Decimal]),
        ("currency", &[Decimal]),
        ("dates", &[Date, Datetime]),
        ("times", &[Time]),
        ("picklist", &[Picklist]),
        ("many", &[Picklist, Reference]),
        ("to", &[Reference]),
        ("region", &[Phone]),
    ]
};

impl KindName {
    /// Whether its fields may have this key.
    pub(crate) fn takes(self, key: &str) -> bool {
        OWN_KEYS.iter().all(|(own, kinds)| *own != key || kinds.contains(&self))
    }
}
