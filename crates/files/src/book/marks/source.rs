//! The workbook that is marked, as an archive of parts.

use super::elements;
use crate::error::Error;
use crate::text::Limits;
use std::fs::File;
use std::io::{BufReader, Read};
use std::path::Path;
use zip::ZipArchive;

/// Small parts are held as texts; none that is sound is longer.
const LONGEST_PART: u64 = 256 << 20;

/// The workbook that is read.
pub(super) struct Source<'a> {
    pub(super) path: &'a Path,
    pub(super) archive: ZipArchive<BufReader<File>>,
}

impl<'a> Source<'a> {
    pub(super) fn open(path: &'a Path) -> Result<Self, Error> {
        let file = File::open(path).map_err(|source| Error::Read { path: path.to_owned(), source })?;
        let archive = ZipArchive::new(BufReader::new(file))
            .map_err(|error| Error::damaged(path, "the archive", &error.to_string()))?;
        Ok(Self { path, archive })
    }

    pub(super) fn name(&mut self, number: usize) -> Result<String, Error> {
        let damaged =
            |error: zip::result::ZipError| Error::damaged(self.path, "the archive", &error.to_string());
        let entry = self.archive.by_index_raw(number).map_err(damaged)?;
        let name =
            entry.name().map_err(|error| Error::damaged(self.path, "the archive", &error.to_string()))?;
        Ok(name.into_owned())
    }

    /// The number of a part; names are the same whatever their case (ECMA-376 part 2, 6.2.2.3).
    pub(super) fn number(&self, part: &str) -> Option<usize> {
        let same = |name: &str| name.eq_ignore_ascii_case(part);
        let mut names = self.archive.file_names();
        names.position(|name| name.is_ok_and(|name| same(&name)))
    }

    /// A part as a text, if it is there.
    pub(super) fn text(&mut self, part: &str) -> Result<Option<String>, Error> {
        let Some(number) = self.number(part) else { return Ok(None) };
        let damaged = |what: String| Error::damaged(self.path, part, &what);
        let entry = self.archive.by_index(number).map_err(|error| damaged(error.to_string()))?;
        let packed = entry.compressed_size();
        let most = packed.saturating_mul(Limits::default().expansion).max(Limits::UNPACKED_FREELY);
        let mut bytes = Vec::new();
        entry
            .take(most.min(LONGEST_PART) + 1)
            .read_to_end(&mut bytes)
            .map_err(|error| damaged(error.to_string()))?;
        if bytes.len() as u64 > most.min(LONGEST_PART) {
            return Err(damaged("it unpacks to far more than a sound one".to_owned()));
        }
        let text = bytes.strip_prefix(b"\xEF\xBB\xBF").map(<[u8]>::to_vec).unwrap_or(bytes);
        String::from_utf8(text).map(Some).map_err(|_| damaged("it is not in UTF-8".to_owned()))
    }
}

/// The relation of the boxes that a sheet names behind its rows.
pub(super) fn legacy_drawing(source: &mut Source<'_>, part: &str) -> Result<Option<String>, Error> {
    let Some(number) = source.number(part) else { return Ok(None) };
    let path = source.path;
    let damaged = |what: String| Error::damaged(path, part, &what);
    let entry = source.archive.by_index(number).map_err(|error| damaged(error.to_string()))?;
    let most =
        entry.compressed_size().saturating_mul(Limits::default().expansion).max(Limits::UNPACKED_FREELY);
    let mut from = entry.take(most);
    // It is looked for as bytes: the rows need not be read for it.
    let (mut bytes, mut kept) = (vec![0; 1 << 18], 0);
    loop {
        let count = from
            .read(bytes.get_mut(kept..).unwrap_or_default())
            .map_err(|error| damaged(error.to_string()))?;
        let read = bytes.get(..kept + count).unwrap_or_default();
        let found = memchr::memmem::find(read, b"legacyDrawing ").map(|at| at.saturating_sub(64));
        if let Some(at) = found
            && (count == 0 || read.len() > at + 1024)
        {
            let text = String::from_utf8_lossy(read.get(at..).unwrap_or_default()).into_owned();
            let begin = text.find("legacyDrawing ").and_then(|at| text.get(..at)?.rfind('<'));
            let tag = begin.and_then(|begin| elements::tag(text.get(begin..)?));
            let id = tag.and_then(|tag| {
                let mut attributes = tag.attributes().flatten();
                let found = attributes.find(|attribute| attribute.key.local_name().as_ref() == "id")?;
                Some(found.value.to_string())
            });
            return Ok(id);
        }
        if count == 0 {
            return Ok(None);
        }
        let from = read.len().saturating_sub(if found.is_some() { 4096 } else { 1024 });
        kept = read.len() - from;
        bytes.copy_within(from..from + kept, 0);
    }
}
