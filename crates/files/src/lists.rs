use super::error::Error;
use crate::table_file::TableFile;
use crate::text::input::Input;
use crate::text::input::Package;
use crate::text::options::ReadOptions;
use std::path::{Path, PathBuf};
use std::sync::atomic::AtomicBool;
use tidy_gate_core::block::Block;
use tidy_gate_core::column_texts::ColumnTexts;
use tidy_gate_core::run::BlockSource;
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
    fn table(&mut self, file: &str, sheet: Option<&str>) -> Result<ListTable, String> {
        let path = self.folder.join(file);
        let bytes = super::small::read_small(&path).map_err(|error| match error.kind() {
            std::io::ErrorKind::NotFound => format!("there is no file {}", path.display()),
            _ => format!("{}: {error}", path.display()),
        })?;
        self.read.push(path.clone());
        if Package::of(&bytes).is_some() {
            return of_workbook(&path, sheet).map_err(|error| error.to_string());
        }
        if sheet.is_some() {
            return Err(format!("{file} is no workbook, so it has no sheets"));
        }
        let bytes = bytes.strip_prefix(b"\xEF\xBB\xBF").unwrap_or(&bytes);
        let mut reader = csv::ReaderBuilder::new().flexible(true).from_reader(bytes);
        let texts = |record: &csv::StringRecord| record.iter().map(|cell| cell.trim().to_owned()).collect();
        let headings = reader.headers().map(texts).map_err(|_| format!("{file} is no CSV in UTF-8"))?;
        let rows = reader.records().map(|record| record.map(|record| texts(&record)));
        let rows = rows.collect::<Result<_, _>>().map_err(|_| format!("{file} is no CSV in UTF-8"))?;
        Ok(ListTable { headings, rows })
    }
}

/// The table on a sheet of a workbook.
fn of_workbook(path: &Path, sheet: Option<&str>) -> Result<ListTable, Error> {
    static NEVER: AtomicBool = AtomicBool::new(false);
    let file =
        TableFile::open_sheet(Input::open(path)?, sheet, &ReadOptions::default(), None, false, &NEVER)?;
    let table = file.table();
    let columns = (0..table.headings.len()).collect();
    let mut texts = ColumnTexts::new(table.headings.len(), table.dialect, columns);
    let (mut rows, mut block) = (Vec::new(), Block::default());
    while file.next(&mut block)? {
        rows.extend(texts.of(&block));
    }
    Ok(ListTable { headings: table.headings.clone(), rows })
}
