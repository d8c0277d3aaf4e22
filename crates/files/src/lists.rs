use std::path::{Path, PathBuf};
use tidy_gate_core::schema::{ListSource, ListTable};

/// Long picklists in CSV files beside the record schema.
#[derive(Debug)]
pub struct ListFiles {
    folder: PathBuf,
    /// The files that were read.
    pub read: Vec<PathBuf>,
}

impl ListFiles {
    /// For the record schema at this path.
    #[must_use]
    pub fn beside(schema: &Path) -> Self {
        Self { folder: schema.parent().map(Path::to_owned).unwrap_or_default(), read: Vec::new() }
    }
}

impl ListSource for ListFiles {
    fn table(&mut self, file: &str) -> Result<ListTable, String> {
        let path = self.folder.join(file);
        let bytes = std::fs::read(&path).map_err(|error| match error.kind() {
            std::io::ErrorKind::NotFound => format!("there is no file {}", path.display()),
            _ => format!("{}: {error}", path.display()),
        })?;
        self.read.push(path);
        let bytes = bytes.strip_prefix(b"\xEF\xBB\xBF").unwrap_or(&bytes);
        let mut reader = csv::ReaderBuilder::new().flexible(true).from_reader(bytes);
        let texts = |record: &csv::StringRecord| record.iter().map(|cell| cell.trim().to_owned()).collect();
        let headings = reader.headers().map(texts).map_err(|_| format!("{file} is no CSV in UTF-8"))?;
        let rows = reader.records().map(|record| record.map(|record| texts(&record)));
        let rows = rows.collect::<Result<_, _>>().map_err(|_| format!("{file} is no CSV in UTF-8"))?;
        Ok(ListTable { headings, rows })
    }
}
