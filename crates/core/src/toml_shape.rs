//! From TOML to the raw shape, with every fault of the shape told at once: each fault takes the offending
//! entry out of the tree, and the rest is read again.

use crate::fault::{Fault, Lines};
use crate::likeness;
use crate::toml_homes;
use schemars::JsonSchema;
use serde::de::DeserializeOwned;
use std::ops::Range;
use toml::Spanned;
use toml::de::{DeTable, DeValue, Deserializer};

/// After so many faults the rest of the file is not looked at.
const MOST: usize = 100;

/// A file as far as its shape could be read.
#[derive(Debug, Clone, Default)]
pub(crate) struct Shape<R> {
    pub(crate) raw: R,
    pub(crate) faults: Vec<Fault>,
    /// Whether lines could not be read that are more than one key: what they open is not known.
    pub(crate) is_torn: bool,
    /// The lines that could not be read as TOML, from 0.
    pub(crate) unreadable: Vec<usize>,
    /// The keys that were faulty themselves.
    pub(crate) removed: Vec<String>,
}

impl<R> Shape<R> {
    /// Joins what the shape could not tell: all faults, in the order of their places. What an unreadable line would
    /// have held cannot be told from what is missing, and what was faulty itself is not missing too.
    pub(crate) fn join(self, text: &str, mut faults: Vec<Fault>) -> Vec<Fault> {
        let lines = Lines::of(text);
        faults.retain(|fault| {
            let told = fault
                .absent
                .is_some_and(|key| self.is_torn || self.removed.iter().any(|removed| removed == key));
            !told && !self.unreadable.contains(&lines.line_of(fault))
        });
        faults.extend(self.faults);
        faults.sort_by_key(|fault| (fault.span.start, fault.span.end));
        faults.dedup();
        faults
    }
}

/// Reads the shape.
pub(crate) fn read<R: DeserializeOwned + Default + JsonSchema>(text: &str) -> Shape<R> {
    let (mut tree, mut errors) = DeTable::parse_recoverable(text);
    // Nobody mends more before looking again.
    errors.truncate(MOST);
    let lines = Lines::of(text);
    let mut shape =
        Shape { faults: errors.iter().map(|error| fault::<R>(error, text)).collect(), ..Shape::default() };
    // One mistake can confuse the reader of TOML several times.
    shape.faults.dedup_by_key(|fault| fault.span.start);
    shape.unreadable = shape.faults.iter().map(|fault| lines.line_of(fault)).collect();
    for line in shape.unreadable.iter().filter_map(|number| text.lines().nth(*number)) {
        match line.split_once('=') {
            Some((key, _)) => shape.removed.push(key.trim().to_owned()),
            None => shape.is_torn = true,
        }
    }
    for turn in 0..MOST {
        // A sound file is read once, and its tree let go of as it is read.
        let read = match turn {
            0 => R::deserialize(Deserializer::from(std::mem::replace(
                &mut tree,
                Spanned::new(0..0, DeTable::new()),
            ))),
            _ => R::deserialize(Deserializer::from(tree.clone())),
        };
        let error = match read {
            Ok(raw) => return Shape { raw, ..shape },
            Err(error) => error,
        };
        if turn == 0 {
            tree = DeTable::parse_recoverable(text).0;
        }
        let found = fault::<R>(&error, text);
        if !shape.unreadable.contains(&lines.line_of(&found)) {
            shape.faults.push(found);
        }
        let Some(key) = error.span().and_then(|span| remove(tree.get_mut(), &span)) else { break };
        shape.removed.push(key);
    }
    // Nothing can be said of the rest.
    shape.is_torn = true;
    shape
}

/// Takes out the entry whose key or value stands exactly at the span, or else the smallest around it; gives its
/// key.
fn remove(table: &mut DeTable<'_>, span: &Range<usize>) -> Option<String> {
    remove_exactly(table, span).or_else(|| remove_around(table, span))
}

fn remove_exactly(table: &mut DeTable<'_>, span: &Range<usize>) -> Option<String> {
    let at = |key: &Spanned<_>, value: &Spanned<DeValue<'_>>| key.span() == *span || value.span() == *span;
    let found = table.iter().find(|(key, value)| at(key, value)).map(|(key, _)| key.clone());
    if let Some(key) = found {
        table.remove(&key);
        return Some(key.get_ref().to_string());
    }
    table.iter_mut().find_map(|(_, value)| descend(value, &mut |table| remove_exactly(table, span)))
}

fn remove_around(table: &mut DeTable<'_>, span: &Range<usize>) -> Option<String> {
    let inner =
        table.iter_mut().find_map(|(_, value)| descend(value, &mut |table| remove_around(table, span)));
    if inner.is_some() {
        return inner;
    }
    let holds =
        |value: &Spanned<DeValue<'_>>| value.span().start <= span.start && span.end <= value.span().end;
    let key = table.iter().find(|(_, value)| holds(value)).map(|(key, _)| key.clone())?;
    table.remove(&key);
    Some(key.get_ref().to_string())
}

fn descend(
    value: &mut Spanned<DeValue<'_>>,
    work: &mut dyn FnMut(&mut DeTable<'_>) -> Option<String>,
) -> Option<String> {
    match value.get_mut() {
        DeValue::Table(table) => work(table),
        DeValue::Array(items) => items.iter_mut().find_map(|item| descend(item, work)),
        _ => None,
    }
}

/// A fault in the words of a steward, from an error of the TOML or of the shape.
fn fault<R: JsonSchema>(error: &toml::de::Error, text: &str) -> Fault {
    let span = error.span().unwrap_or(0..0);
    let message = error.message();
    if let Some((name, permitted)) = unknown(message, "unknown field `") {
        let fault = Fault::new(span, format!("there is no key `{name}` here")).label("unknown key");
        let homes = toml_homes::of_key::<R>(name);
        if !homes.is_empty() {
            return fault.help(format!("`{name}` stands under {}", homes.join(" or ")));
        }
        return with_nearest(fault, name, &permitted);
    }
    if let Some((name, permitted)) = unknown(message, "unknown variant `") {
        let fault = Fault::new(span, format!("`{name}` is not permitted here")).label("not a permitted word");
        return with_nearest(fault, name, &permitted);
    }
    if let Some(rest) =
        message.strip_prefix("invalid type: ").or_else(|| message.strip_prefix("invalid value: "))
        && let Some((found, expected)) = rest.rsplit_once(", expected ")
    {
        let expected = plain_type(expected);
        let at = text.get(span.clone()).unwrap_or_default();
        let fault = Fault::new(span, format!("found {}, expected {expected}", plain_type(found)))
            .label(format!("expected {expected}"));
        return match expected.as_str() {
            "a table" => fault.help("a table is written as { key = value, … }"),
            "a list in [ ]" if at.starts_with('[') => {
                fault.help(format!("each one begins with two brackets: [{at}]"))
            }
            "a list in [ ]" => fault.help(format!("write [{at}]")),
            _ => fault,
        };
    }
    let span = widened(span, text);
    let bare = text.get(span.clone()).unwrap_or_default();
    if message.starts_with("invalid boolean") || message.contains("must be quoted") {
        return Fault::new(span, format!("`{bare}` is no value of TOML"))
            .help(format!("a text stands in quotes: \"{bare}\""));
    }
    Fault::new(span, message.lines().next().unwrap_or_default().to_owned()).label("not readable as TOML")
}

/// A mark of at least one byte, inside the text.
fn widened(span: Range<usize>, text: &str) -> Range<usize> {
    let start = span.start.min(text.len());
    start..span.end.clamp(start, text.len())
}

/// The unknown word and the permitted ones, from the message of the shape.
fn unknown<'a>(message: &'a str, opening: &str) -> Option<(&'a str, Vec<&'a str>)> {
    let (name, rest) = message.strip_prefix(opening)?.split_once('`')?;
    Some((name, rest.split('`').skip(1).step_by(2).collect()))
}

fn with_nearest(fault: Fault, name: &str, permitted: &[&str]) -> Fault {
    match likeness::nearest(name, permitted.iter().map(|word| (*word, *word))) {
        Some(near) => fault.help(format!("did you mean `{near}`?")),
        None => fault.help(format!("permitted: {}", permitted.join(", "))),
    }
}

/// The names that programmers give to types, in a steward's words.
fn plain_type(words: &str) -> String {
    let plain = [
        ("integer `", "the number `"),
        ("floating point `", "the number `"),
        ("boolean `", "`"),
        ("string \"", "the text \""),
        ("a boolean", "true or false"),
        ("a string", "a text in quotes"),
        ("a sequence", "a list in [ ]"),
        ("sequence", "a list"),
        ("map", "a table"),
        ("i64", "a whole number"),
        ("u32", "a whole number from 0"),
    ];
    for (theirs, ours) in plain {
        if let Some(rest) = words.strip_prefix(theirs) {
            return format!("{ours}{rest}");
        }
    }
    if words.starts_with("struct ") { "a table".to_owned() } else { words.to_owned() }
}
