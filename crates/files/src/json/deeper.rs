//! Where lists of objects stand within a JSON text that is one object: such a text is one record, unless somebody says where
//! its records are.

use crate::layout::Fact;
use serde_json::value::RawValue;
use std::collections::BTreeMap;

/// So deep they are looked for, and so many are named.
const DEEPEST: usize = 4;
const MOST: usize = 3;

/// The places of lists of objects, as JSON Pointers (RFC 6901); none where one stands at the top, which is read as the records.
pub(super) fn lists(text: &str) -> Vec<String> {
    let mut found = Vec::new();
    look(text, &mut String::new(), 1, &mut found);
    if found.iter().any(|place| place.matches('/').count() == 1) { Vec::new() } else { found }
}

/// What is said of a text that is one record, where such lists stand in it.
pub(crate) fn fact(places: &[String]) -> Option<Fact> {
    let first = places.first()?;
    let lists = if places.len() == 1 { "a list of objects stands" } else { "lists of objects stand" };
    let places = places.join(", ");
    let evidence = format!("{lists} within it ({places}); if the records are those, say --at {first}");
    Some(Fact::guessed("records", "the whole object is one".to_owned(), evidence))
}

fn look(object: &str, place: &mut String, depth: usize, found: &mut Vec<String>) {
    let Ok(members) = serde_json::from_str::<BTreeMap<String, &RawValue>>(object) else { return };
    for (key, value) in members {
        let (before, value) = (place.len(), value.get());
        place.push('/');
        place.push_str(&key.replace('~', "~0").replace('/', "~1"));
        let is_list = value.strip_prefix('[').is_some_and(|inner| inner.trim_start().starts_with('{'));
        if is_list && found.len() < MOST {
            found.push(place.clone());
        } else if depth < DEEPEST && value.starts_with('{') {
            look(value, place, depth + 1, found);
        }
        place.truncate(before);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lists_are_found_where_none_stands_at_the_top() {
        for (text, places) in [
            (r#"{"meta": 1, "data": {"a/b": [ {"k": 1} ], "n": [1]}}"#, &["/data/a~1b"][..]),
            (r#"{"r": {"x": {"docs": [{}]}, "y": {"more": [{"k": 2}]}}}"#, &["/r/x/docs", "/r/y/more"]),
            (r#"{"items": [{"sub": {"list": [{}]}}], "d": {"e": [{}]}}"#, &[]),
            (r#"{"a": {"b": 1}}"#, &[]),
            (r#"[{"a": {"b": [{}]}}]"#, &[]),
            ("{", &[]),
        ] {
            assert_eq!(lists(text), places, "{text}");
        }
    }
}
