//! An earlier report, as far as a later one asks for it.

use super::row_sets::RowSet;
use crate::prints::{self, Basis, EarlierFinding, Fingerprints, Group, Salt, SinceFile};
use serde::Deserialize;
use std::collections::BTreeMap;
use thiserror::Error;

/// An earlier report.
#[derive(Debug)]
pub struct Earlier {
    pub(super) salt: Salt,
    pub(super) content: Vec<String>,
    pub(super) groups: BTreeMap<Group, Vec<u64>>,
    pub(super) rows: Vec<RowSet>,
    pub(super) findings: Vec<EarlierFinding>,
    pub(super) causes: Vec<EarlierCause>,
    pub(super) columns: Vec<EarlierColumn>,
    pub(super) basis: Basis,
    pub(super) facts: SinceFile,
    pub(super) sha256: Option<String>,
    /// The name of its record.
    pub record: String,
}

/// Why a text is no earlier report.
#[derive(Debug, Error)]
pub enum EarlierFault {
    /// It is no report at all.
    #[error("it is no report of a check in JSON ({0})")]
    NoReport(String),
    /// It is of another form.
    #[error("it is a report of format {0}; this program reads format 1")]
    Format(u64),
    /// It carries no marks.
    #[error("it carries no fingerprints of its findings")]
    NoPrints,
    /// Its marks are damaged.
    #[error("its fingerprints are damaged")]
    Damaged,
}

#[derive(Debug, Deserialize)]
pub(super) struct EarlierCause {
    pub(super) code: String,
    pub(super) fields: Vec<String>,
    pub(super) findings: u64,
    pub(super) explanation: String,
}

#[derive(Debug, Deserialize)]
pub(super) struct EarlierColumn {
    pub(super) heading: String,
    pub(super) field: Option<String>,
}

#[derive(Debug, Deserialize)]
struct File {
    name: String,
    #[serde(default)]
    sha256: Option<String>,
}

#[derive(Debug, Deserialize)]
struct Record {
    name: String,
}

#[derive(Debug, Deserialize)]
struct Read {
    format: u64,
    today: String,
    file: File,
    record: Record,
    columns: Vec<EarlierColumn>,
    causes: Vec<EarlierCause>,
    findings: Vec<EarlierFinding>,
    #[serde(default)]
    fingerprints: Option<Fingerprints>,
    #[serde(default)]
    basis: Basis,
}

impl Earlier {
    /// Reads a report in JSON.
    ///
    /// # Errors
    /// When it is none, or carries no marks.
    pub fn read(text: &[u8]) -> Result<Self, EarlierFault> {
        let text = text.strip_prefix(b"\xEF\xBB\xBF").unwrap_or(text);
        let read: Read =
            serde_json::from_slice(text).map_err(|error| EarlierFault::NoReport(error.to_string()))?;
        if read.format != 1 {
            return Err(EarlierFault::Format(read.format));
        }
        let carried = read.fingerprints.ok_or(EarlierFault::NoPrints)?;
        let salt = carried.salt().ok_or(EarlierFault::Damaged)?;
        let mut groups: BTreeMap<Group, Vec<u64>> = BTreeMap::new();
        for of in carried.findings {
            let mut marks = prints::read(&of.marks).ok_or(EarlierFault::Damaged)?;
            let group = groups.entry(of.group).or_default();
            group.append(&mut marks);
            group.sort_unstable();
        }
        let rows: Option<Vec<RowSet>> = carried.rows.iter().map(RowSet::read).collect();
        let rows = rows.ok_or(EarlierFault::Damaged)?;
        let facts = SinceFile {
            name: read.file.name,
            today: read.today,
            findings: groups.values().map(|marks| marks.len() as u64).sum(),
            held: rows.iter().map(RowSet::held).sum(),
            same_bytes: false,
        };
        Ok(Self {
            salt,
            content: carried.content,
            groups,
            rows,
            findings: read.findings,
            causes: read.causes,
            columns: read.columns,
            basis: read.basis,
            facts,
            sha256: read.file.sha256,
            record: read.record.name,
        })
    }

    /// What its marks are salted with.
    #[must_use]
    pub fn salt(&self) -> Salt {
        self.salt
    }
}
