//! The elements of a part that is small enough to be held as a text: where each begins and ends, so that some can be put
//! in, changed or taken out while all else stays as it is written.

use quick_xml::events::{BytesStart, Event};
use quick_xml::{Reader, Writer, XmlVersion};
use std::ops::Range;

/// An element of a text.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Element {
    /// Its name without a prefix.
    pub(super) name: String,
    /// All of it.
    pub(super) whole: Range<usize>,
    /// What stands between its tags; nothing where it is written as one tag.
    pub(super) inner: Option<Range<usize>>,
}

/// The elements that stand side by side in this part of a text.
///
/// # Errors
/// What is wrong with it, in words.
pub(super) fn siblings(xml: &str, within: Range<usize>) -> Result<Vec<Element>, String> {
    let from = within.start;
    let mut reader = Reader::from_str(piece(xml, within));
    let place = |position: u64| from + usize::try_from(position).unwrap_or(0);
    let (mut found, mut open): (Vec<Element>, Option<(Element, usize)>) = (Vec::new(), None);
    loop {
        let begin = place(reader.buffer_position());
        let event = reader.read_event().map_err(|error| error.to_string())?;
        let end = place(reader.buffer_position());
        match (event, &mut open) {
            (Event::Eof, None) => return Ok(found),
            (Event::Eof, Some(_)) => return Err("it ends within an element".to_owned()),
            (Event::Start(start), None) => {
                let name = start.local_name().as_ref().to_owned();
                open = Some((Element { name, whole: begin..end, inner: Some(end..end) }, 0));
            }
            (Event::Start(_), Some((_, depth))) => *depth += 1,
            (Event::Empty(start), None) => {
                let name = start.local_name().as_ref().to_owned();
                found.push(Element { name, whole: begin..end, inner: None });
            }
            (Event::End(_), Some((element, 0))) => {
                element.whole.end = end;
                element.inner = element.inner.take().map(|inner| inner.start..begin);
                found.extend(open.take().map(|open| open.0));
            }
            (Event::End(_), Some((_, depth))) => *depth -= 1,
            _ => {}
        }
    }
}

/// The root of a part, and what stands in it.
///
/// # Errors
/// When it is none, in words.
pub(super) fn root(xml: &str) -> Result<(Element, Vec<Element>), String> {
    let root = siblings(xml, 0..xml.len())?.into_iter().next().ok_or("it holds no element")?;
    let within = match &root.inner {
        Some(inner) => siblings(xml, inner.clone())?,
        None => Vec::new(),
    };
    Ok((root, within))
}

/// The elements within this one.
///
/// # Errors
/// As [`siblings`].
pub(super) fn children(xml: &str, of: &Element) -> Result<Vec<Element>, String> {
    of.inner.clone().map_or(Ok(Vec::new()), |inner| siblings(xml, inner))
}

/// The text of this range.
pub(super) fn piece(xml: &str, range: Range<usize>) -> &str {
    xml.get(range).unwrap_or_default()
}

/// The first tag of an element.
pub(super) fn tag(xml: &str) -> Option<BytesStart<'static>> {
    match Reader::from_str(xml).read_event() {
        Ok(Event::Start(start) | Event::Empty(start)) => Some(start.into_owned()),
        _ => None,
    }
}

/// The prefix of an element's name, with its colon.
pub(super) fn prefix(xml: &str) -> String {
    let name = tag(xml).map(|tag| tag.name().as_ref().to_owned()).unwrap_or_default();
    name.rsplit_once(':').map(|parts| format!("{}:", parts.0)).unwrap_or_default()
}

/// An attribute by its whole name.
pub(super) fn value(start: &BytesStart<'_>, name: &str) -> Option<String> {
    let found = start.attributes().flatten().find(|attribute| attribute.key.as_ref() == name)?;
    found.normalized_value(XmlVersion::Implicit1_0).ok().map(std::borrow::Cow::into_owned)
}

/// An attribute of the first tag of a text.
pub(super) fn attribute(xml: &str, name: &str) -> Option<String> {
    value(&tag(xml)?, name)
}

/// The tag with these attributes set, or taken away.
pub(super) fn with(start: &BytesStart<'_>, set: &[(&str, Option<&str>)]) -> BytesStart<'static> {
    let mut changed = BytesStart::new(start.name().as_ref().to_owned());
    let mut there = Vec::new();
    for attribute in start.attributes().flatten() {
        match set.iter().find(|(name, _)| *name == attribute.key.as_ref()) {
            None => changed.push_attribute(attribute),
            Some((name, value)) => {
                there.push(*name);
                value.iter().for_each(|value| changed.push_attribute((*name, *value)));
            }
        }
    }
    for (name, value) in set.iter().filter(|(name, _)| !there.contains(name)) {
        value.iter().for_each(|value| changed.push_attribute((*name, *value)));
    }
    changed
}

/// The element with these attributes of its first tag set, or taken away; as it was where it is none.
pub(super) fn retagged(xml: &str, set: &[(&str, Option<&str>)]) -> String {
    let mut reader = Reader::from_str(xml);
    let (start, is_empty) = match reader.read_event() {
        Ok(Event::Start(start)) => (start, false),
        Ok(Event::Empty(start)) => (start, true),
        _ => return xml.to_owned(),
    };
    let behind = usize::try_from(reader.buffer_position()).unwrap_or(0);
    let tag = with(&start, set);
    let mut writer = Writer::new(Vec::new());
    // Writing to memory cannot fail.
    let _ = writer.write_event(if is_empty { Event::Empty(tag) } else { Event::Start(tag) });
    format!("{}{}", String::from_utf8_lossy(&writer.into_inner()), piece(xml, behind..xml.len()))
}

/// A text within an element or an attribute.
pub(super) fn escaped(text: &str) -> String {
    quick_xml::escape::escape(text).into_owned()
}

/// A text with changes at some places: what stands in each range is replaced.
pub(super) fn changed(xml: &str, mut changes: Vec<(Range<usize>, String)>) -> String {
    changes.sort_by_key(|change| (change.0.start, change.0.end));
    let (mut made, mut at) = (String::with_capacity(xml.len()), 0);
    for (range, text) in changes {
        made.push_str(piece(xml, at..range.start));
        made.push_str(&text);
        at = range.end.max(at);
    }
    made.push_str(piece(xml, at..xml.len()));
    made
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn elements_are_found_where_they_stand() {
        let xml = "<?xml version='1.0'?>\n<a:r k='1'> <!-- <b/> --><b x='&amp;'/><c><c>t</c></c></a:r>";
        let (root, within) = root(xml).expect("it is well formed");
        assert_eq!((root.name.as_str(), prefix(piece(xml, root.whole.clone()))), ("r", "a:".to_owned()));
        let texts: Vec<_> = within.iter().map(|element| piece(xml, element.whole.clone())).collect();
        assert_eq!(texts, ["<b x='&amp;'/>", "<c><c>t</c></c>"]);
        assert_eq!(children(xml, &within[1]).expect("so is this").len(), 1);
        assert_eq!(retagged(texts[0], &[("y", Some("2"))]), "<b x=\"&amp;\" y=\"2\"/>");
        assert_eq!(retagged(texts[1], &[]), texts[1]);
        assert_eq!(changed("abc", vec![(1..2, "x".to_owned()), (0..0, "-".to_owned())]), "-axc");
        assert!(super::root("<a><b></a>").is_err() && super::root("").is_err());
    }
}
