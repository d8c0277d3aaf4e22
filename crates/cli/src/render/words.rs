//! Words that everything for people has in common.

use crate::shell::quoted_path;
use crate::terminal;
use tidy_gate_core::finding::Finding;
use tidy_gate_core::numerals::grouped;
use tidy_gate_core::report::FileFacts;

/// The program as it can be typed here: by name where it stands on the search path, else by its path.
pub(crate) fn program() -> String {
    let Ok(own) = std::env::current_exe() else { return "tidy-gate".to_owned() };
    let path = std::env::var_os("PATH").unwrap_or_default();
    let found =
        std::env::split_paths(&path).map(|folder| folder.join("tidy-gate")).find(|file| file.is_file());
    let same = found.is_some_and(|found| found.canonicalize().ok() == own.canonicalize().ok());
    if same { "tidy-gate".to_owned() } else { quoted_path(&own) }
}

/// How many of something.
pub(crate) fn counted(count: u64, one: &str, several: &str) -> String {
    format!("{} {}", grouped(count), if count == 1 { one } else { several })
}

/// The form of a text: what it is, its encoding, what stands between its cells.
pub(crate) fn form(file: &FileFacts) -> String {
    if let Some(sheet) = &file.sheet {
        return format!("{}, sheet {}", file.form.to_uppercase(), terminal::shown(sheet));
    }
    let encoding = file.encoding.as_deref().unwrap_or_default();
    let encoding = encoding
        .strip_prefix("windows-")
        .map_or_else(|| encoding.to_uppercase(), |page| format!("Windows-{page}"));
    let delimiter = file.delimiter.as_deref().and_then(|text| text.bytes().next()).map(|delimiter| {
        let name = tidy_gate_files::delimiter_name(delimiter);
        if name.len() > 1 && !name.contains(' ') {
            format!(", {name}s")
        } else {
            format!(", {name} between cells")
        }
    });
    format!("{} in {encoding}{}", file.form.to_uppercase(), delimiter.unwrap_or_default())
}

/// The text with a capital letter first.
pub(crate) fn sentence(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map(|first| first.to_uppercase().chain(letters).collect()).unwrap_or_default()
}

/// Where a finding stands, as a spreadsheet names the place; nothing where it is about the file.
pub(crate) fn place(finding: &Finding) -> Option<String> {
    Some(match (&finding.letter, finding.row, finding.row_last) {
        (Some(letter), Some(row), _) => format!("{letter}{row}"),
        (None, Some(row), Some(last)) => format!("rows {row} to {last}"),
        (None, Some(row), None) => format!("row {row}"),
        (Some(letter), None, _) => format!("column {letter}"),
        (None, None, _) => return None,
    })
}

/// "is" or "are".
pub(crate) fn are(count: u64) -> &'static str {
    if count == 1 { "is" } else { "are" }
}

/// A size as people say it.
#[expect(clippy::cast_precision_loss, reason = "shown with one decimal")]
pub(crate) fn size(bytes: u64) -> String {
    match bytes {
        0..=999 => counted(bytes, "byte", "bytes"),
        1_000..=999_949 => format!("{:.1} KB", bytes as f64 / 1e3),
        1_000_000..=999_949_999 => format!("{:.1} MB", bytes as f64 / 1e6),
        999_950..=999_999 => "1.0 MB".to_owned(),
        _ => format!("{:.1} GB", bytes as f64 / 1e9),
    }
}
