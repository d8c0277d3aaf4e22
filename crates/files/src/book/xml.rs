//! XML parts read event by event (XML 1.0). Entities beyond the five predefined ones are not expanded: a part that
//! uses some is refused.

use crate::error::Error;
use quick_xml::events::{BytesStart, Event};
use quick_xml::{Reader, XmlVersion};
use std::io::BufRead;
use std::path::PathBuf;
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};

/// A reader of one part.
pub(super) struct Xml<R> {
    reader: Reader<R>,
    buffer: Vec<u8>,
    path: PathBuf,
    part: String,
    /// Counts what is read for one node.
    piece: Arc<AtomicU64>,
}

/// What the parts are made of.
pub(super) enum Node {
    /// An element begins.
    Open(BytesStart<'static>),
    /// An element that holds nothing.
    Empty(BytesStart<'static>),
    /// An element ends; its name without a prefix.
    Close(String),
    /// Text.
    Text(String),
    /// The part ends.
    End,
}

impl<R: BufRead> Xml<R> {
    pub(super) fn new(path: PathBuf, part: &str, piece: Arc<AtomicU64>, from: R) -> Self {
        let mut reader = Reader::from_reader(from);
        reader.config_mut().check_end_names = true;
        Self { reader, buffer: Vec::new(), path, part: part.to_owned(), piece }
    }

    /// The next node that says something.
    pub(super) fn next(&mut self) -> Result<Node, Error> {
        loop {
            self.buffer.clear();
            self.piece.store(0, Ordering::Relaxed);
            let event = self.reader.read_event_into(&mut self.buffer);
            let event = event.map_err(|error| Error::damaged(&self.path, &self.part, &error.to_string()))?;
            match event {
                Event::Start(start) => return Ok(Node::Open(start.into_owned())),
                Event::Empty(start) => return Ok(Node::Empty(start.into_owned())),
                Event::End(end) => return Ok(Node::Close(end.local_name().as_ref().to_owned())),
                Event::Text(text) => {
                    return Ok(Node::Text(text.xml_content(XmlVersion::Implicit1_0).into_owned()));
                }
                Event::CData(text) => {
                    return Ok(Node::Text(text.xml_content(XmlVersion::Implicit1_0).into_owned()));
                }
                Event::GeneralRef(entity) => {
                    let found = entity.resolve_char_ref().ok().flatten().or(match entity.as_ref() {
                        "amp" => Some('&'),
                        "lt" => Some('<'),
                        "gt" => Some('>'),
                        "quot" => Some('"'),
                        "apos" => Some('\''),
                        _ => None,
                    });
                    let Some(found) = found else {
                        let what = "it uses entities of its own, which are not expanded";
                        return Err(Error::damaged(&self.path, &self.part, what));
                    };
                    return Ok(Node::Text(found.to_string()));
                }
                Event::Eof => return Ok(Node::End),
                Event::Comment(_) | Event::Decl(_) | Event::PI(_) | Event::DocType(_) => {}
            }
        }
    }

    pub(super) fn fault(&self, what: &str) -> Error {
        Error::damaged(&self.path, &self.part, what)
    }
}

/// The value of an attribute, by its name without a prefix.
pub(super) fn attribute(start: &BytesStart<'_>, name: &str) -> Option<String> {
    start.attributes().flatten().find(|attribute| attribute.key.local_name().as_ref() == name).and_then(
        |attribute| {
            attribute.normalized_value(XmlVersion::Implicit1_0).ok().map(std::borrow::Cow::into_owned)
        },
    )
}

/// The value of an attribute as a number.
pub(super) fn number<T: std::str::FromStr>(start: &BytesStart<'_>, name: &str) -> Option<T> {
    attribute(start, name)?.parse().ok()
}

/// Whether an attribute is set to true.
pub(super) fn is_set(start: &BytesStart<'_>, name: &str) -> bool {
    attribute(start, name).is_some_and(|value| value == "1" || value == "true")
}
