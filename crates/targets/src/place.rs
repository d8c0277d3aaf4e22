//! Where records are, as it is stated on the command line or in a plan.

use crate::error::Error;
use std::io::Read;
use std::path::{Path, PathBuf};

/// Where records are.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Place {
    /// An export or a database.
    pub file: PathBuf,
    /// The table or view of a database, with its schema before it where one is named; or the sheet of a workbook.
    pub table: Option<String>,
}

impl Place {
    /// Reads `FILE` or `FILE#TABLE`. A file whose name holds a `#` is found by it.
    ///
    /// # Errors
    /// When it names no file or no table.
    pub fn read(stated: &str) -> Result<Self, Error> {
        let fault = |what: &str| Error::NoPlace { stated: stated.to_owned(), what: what.to_owned() };
        if stated.starts_with("env:") {
            return Err(fault("PostgreSQL is not read yet"));
        }
        if Path::new(stated).exists() {
            return Ok(Self { file: stated.into(), table: None });
        }
        match stated.split_once('#') {
            Some(("", _)) => Err(fault("names no file")),
            Some((_, "")) => Err(fault("names no table")),
            Some((file, table)) => Ok(Self { file: file.into(), table: Some(table.to_owned()) }),
            None => Ok(Self { file: stated.into(), table: None }),
        }
    }

    /// Whether the file begins as an SQLite database does (SQLite file format, 1.3).
    #[must_use]
    pub fn is_database(&self) -> bool {
        const HEAD: &[u8] = b"SQLite format 3\0";
        let mut head = [0; 16];
        let Ok(mut file) = std::fs::File::open(&self.file) else { return false };
        file.metadata().is_ok_and(|facts| facts.is_file())
            && file.read_exact(&mut head).is_ok()
            && head == HEAD
    }

    /// As people call it.
    #[must_use]
    pub fn name(&self) -> String {
        match &self.table {
            Some(table) => format!("{}#{table}", self.file.display()),
            None => self.file.display().to_string(),
        }
    }
}

/// The parts of a name as SQL writes it (ISO/IEC 9075-2, 5.4): parted by points, in double quotes where they hold
/// anything else than letters, digits and underscores; nothing where it is none.
pub(crate) fn parts(name: &str) -> Option<Vec<String>> {
    let (mut parts, mut rest) = (Vec::new(), name.trim());
    loop {
        let mut part = String::new();
        if let Some(mut quoted) = rest.strip_prefix('"') {
            loop {
                let (before, behind) = quoted.split_once('"')?;
                part.push_str(before);
                match behind.strip_prefix('"') {
                    Some(more) => {
                        part.push('"');
                        quoted = more;
                    }
                    None => {
                        rest = behind;
                        break;
                    }
                }
            }
        } else {
            let end = rest.find('.').unwrap_or(rest.len());
            let (before, behind) = rest.split_at_checked(end)?;
            part.push_str(before);
            rest = behind;
        }
        if part.is_empty() || part.contains('\0') {
            return None;
        }
        parts.push(part);
        match rest.strip_prefix('.') {
            Some(more) => rest = more,
            None if rest.is_empty() => return Some(parts),
            None => return None,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_are_read_as_sql_writes_them() {
        for (name, wanted) in [
            ("tree", Some(vec!["tree"])),
            ("main.tree", Some(vec!["main", "tree"])),
            ("\"a.b\".\"say \"\"x\"\"\"", Some(vec!["a.b", "say \"x\""])),
            ("Bäume der Stadt", Some(vec!["Bäume der Stadt"])),
            ("\"drop table x; --\"", Some(vec!["drop table x; --"])),
            ("", None),
            ("a.", None),
            ("\"a", None),
            ("\"a\"b", None),
        ] {
            let wanted = wanted.map(|parts| parts.into_iter().map(str::to_owned).collect());
            assert_eq!(parts(name), wanted, "{name}");
        }
    }

    #[test]
    fn a_place_is_a_file_and_perhaps_a_table() {
        let place = |stated| Place::read(stated).map(|place| (place.file.display().to_string(), place.table));
        assert_eq!(place("r.db#tree").unwrap(), ("r.db".to_owned(), Some("tree".to_owned())));
        assert_eq!(place("export.csv").unwrap(), ("export.csv".to_owned(), None));
        assert!(place("#tree").is_err() && place("r.db#").is_err() && place("env:URL#tree").is_err());
    }
}
