//! Keys of a field that only some kinds have.

use crate::fault::Fault;
use crate::schema::kinds::{KindName, OWN_KEYS};
use crate::schema::raw::RawField;
use std::ops::Range as Span;
use toml::Spanned;

/// Keys that belong to other kinds.
pub(super) fn check(kind: KindName, raw: &RawField, faults: &mut Vec<Fault>) {
    fn at<T>(value: &Option<Spanned<T>>) -> Option<Span<usize>> {
        value.as_ref().map(Spanned::span)
    }
    let place = |key: &str| match key {
        "pattern" => at(&raw.pattern),
        "pattern_says" => at(&raw.pattern_says),
        "case" => at(&raw.case),
        "length" => at(&raw.length),
        "range" => at(&raw.range),
        "unit" => at(&raw.unit),
        "digits" => at(&raw.digits),
        "percent" => at(&raw.percent),
        "currency" => at(&raw.currency),
        "dates" => at(&raw.dates),
        "times" => at(&raw.times),
        "picklist" => at(&raw.picklist),
        "many" => at(&raw.many),
        "to" => at(&raw.to),
        "region" => at(&raw.region),
        _ => None,
    };
    for (key, kinds) in OWN_KEYS {
        if let Some(place) = place(key)
            && !kind.takes(key)
        {
            let names: Vec<_> = kinds.iter().map(|kind| kind.name()).collect();
            let message = format!("`{key}` is no key of a field of kind {}", kind.name());
            faults.push(Fault::new(place, message).help(format!("it belongs to kind {}", names.join(", "))));
        }
    }
}
