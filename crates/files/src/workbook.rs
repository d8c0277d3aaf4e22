//! What all workbooks that are written have in common.

use crate::error::Error;
use rust_xlsxwriter::{DocProperties, ExcelDateTime, XlsxError};
use std::path::Path;

/// What could not be written of a workbook.
pub(crate) fn failed(path: &Path, error: &XlsxError) -> Error {
    let said = error.to_string();
    // Rows wait in a temporary file of their own until the workbook is packed.
    if said.to_lowercase().contains("temporary file") {
        return Error::temporary(std::io::Error::other("no temporary file can be made there"));
    }
    if matches!(error, XlsxError::MaxStringLengthExceeded) {
        let what = "a text of it is longer than the 32,767 characters that a cell of a workbook may hold";
        return Error::write(path, std::io::Error::other(what));
    }
    Error::write(path, std::io::Error::other(said))
}

/// The same on every run.
pub(crate) fn properties() -> Result<DocProperties, XlsxError> {
    Ok(DocProperties::new().set_creation_datetime(&ExcelDateTime::from_ymd(2000, 1, 1)?))
}
