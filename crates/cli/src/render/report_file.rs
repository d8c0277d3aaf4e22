//! Report files: one run, told to whoever reads it.

mod charts;
mod markdown;
mod page;
mod sarif;
mod told;

use super::json;
use std::path::Path;
pub(crate) use told::Told;

/// The form of a report file, by its ending.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Form {
    /// A page for a browser.
    Html,
    /// For a mail or a merge request.
    Markdown,
    /// The report of format 1.
    Json,
    /// SARIF 2.1.0.
    Sarif,
}

impl Form {
    /// By the ending of a path.
    pub(crate) fn of(path: &Path) -> Self {
        match path.extension().map(|ending| ending.to_ascii_lowercase()) {
            Some(ending) if ending == "html" => Self::Html,
            Some(ending) if ending == "md" => Self::Markdown,
            Some(ending) if ending == "sarif" => Self::Sarif,
            _ => Self::Json,
        }
    }

    /// Whether it carries the marks of findings.
    pub(crate) fn tells_marks(self) -> bool {
        matches!(self, Self::Json | Self::Sarif)
    }
}

/// The text of a report file.
pub(crate) fn render(form: Form, told: &Told<'_>) -> anyhow::Result<String> {
    Ok(match form {
        Form::Html => page::page(told)?,
        Form::Markdown => markdown::markdown(told.report, told.context),
        Form::Json => json::pretty(told.report)?,
        Form::Sarif => json::pretty(&sarif::sarif(told.report, &told.context.file))?,
    })
}
