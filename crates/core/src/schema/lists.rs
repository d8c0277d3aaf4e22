/// Where long picklists come from. The core reads no files; whoever reads the schema hands this in.
pub trait ListSource {
    /// The table in the file of this name, which is relative to the schema; of a workbook, on the sheet of this name.
    ///
    /// # Errors
    /// Why it cannot be read, as one clause.
    fn table(&mut self, file: &str, sheet: Option<&str>) -> Result<ListTable, String>;
}

/// A small table: headings and rows of text.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct ListTable {
    /// The headings.
    pub headings: Vec<String>,
    /// The rows.
    pub rows: Vec<Vec<String>>,
}

/// For schemas that keep all their lists inside.
#[derive(Debug, Clone, Copy, Default)]
pub struct NoLists;

impl ListSource for NoLists {
    fn table(&mut self, file: &str, _: Option<&str>) -> Result<ListTable, String> {
        Err(format!("{file} cannot be read here"))
    }
}
