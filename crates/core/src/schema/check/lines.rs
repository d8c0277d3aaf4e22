//! Several rows that make one record: the header holds the key, lines have keys of their own.

use crate::fault::Fault;
use crate::schema::raw::{RawCount, RawLines};
use crate::schema::record::{Lines, Range};
use toml::Spanned;

type Names = Spanned<Vec<Spanned<String>>>;

/// `named` gives the numbers of the fields that a list names.
pub(super) fn lines(
    section: &Spanned<RawLines>,
    record_key: &[usize],
    named: &mut dyn FnMut(Option<&Names>, &str) -> Vec<usize>,
) -> (Option<Lines>, Vec<Fault>) {
    let (place, raw) = (section.span(), section.get_ref());
    let mut faults = Vec::new();
    let stated = named(raw.header.as_ref(), "header");
    let key = named(raw.key.as_ref(), "key");
    let lacks = record_key.iter().any(|field| !stated.contains(field));
    match &raw.header {
        None => faults.push(Fault::missing(
            place,
            "header",
            "the fields that have one value a record, the key among them",
        )),
        Some(list) if record_key.is_empty() => faults.push(
            Fault::new(list.span(), "the record has no key, so nothing tells where its lines begin")
                .help("name the `key` of the record, at the head of the record schema"),
        ),
        Some(list) if lacks => faults.push(
            Fault::new(list.span(), "`header` does not hold the whole key of the record")
                .help("add the fields of `key`: they are what the lines of a record have in common"),
        ),
        Some(_) => {}
    }
    if let Some(list) = raw.key.as_ref().filter(|_| key.iter().any(|field| stated.contains(field))) {
        faults.push(
            Fault::new(list.span(), "a field of the line's `key` stands in `header` too")
                .help("what has one value a record cannot tell its lines apart"),
        );
    }
    let count = raw.count.as_ref().map(|count| range(count, &mut faults)).unwrap_or_default();
    // The key first: it is looked at first.
    let rest = stated.iter().copied().filter(|field| !record_key.contains(field));
    let header: Vec<usize> = record_key.iter().copied().chain(rest).collect();
    (faults.is_empty().then_some(Lines { header, key, count }), faults)
}

fn range(count: &Spanned<RawCount>, faults: &mut Vec<Fault>) -> Range<u64> {
    let RawCount { min, max } = *count.get_ref();
    if max == Some(0) {
        faults
            .push(Fault::new(count.span(), "a record without any line cannot be").help("`max` is 1 or more"));
    } else if min.zip(max).is_some_and(|(min, max)| min > max) {
        faults.push(Fault::new(count.span(), "`min` is more than `max`").help("exchange the two"));
    }
    Range { min: min.map(u64::from), max: max.map(u64::from) }
}
