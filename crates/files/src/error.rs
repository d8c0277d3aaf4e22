use std::io;
use std::path::PathBuf;
use thiserror::Error;

/// Why the work could not be done.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum Error {
    /// The input cannot be read.
    #[error("cannot read {}: {}", path.display(), reason(source))]
    Read {
        /// The file.
        path: PathBuf,
        /// Why.
        source: io::Error,
    },
    /// The input is a folder.
    #[error("{} is a folder, not a file", path.display())]
    Folder {
        /// The folder.
        path: PathBuf,
    },
    /// The input is no table.
    #[error("{} is not a table: {shape}", path.display())]
    NotTable {
        /// The file.
        path: PathBuf,
        /// What it is instead.
        shape: Shape,
    },
    /// A row is larger than the limit.
    #[error(
        "{}: the row that begins on line {line} is longer than {}; is a quote left open there, or is this no table? \
         (--max-row permits more)",
        path.display(), size(*limit)
    )]
    RowTooLong {
        /// The file.
        path: PathBuf,
        /// The physical line on which the row begins.
        line: u64,
        /// The limit in bytes.
        limit: usize,
    },
    /// A sheet holds more than a workbook of its size may.
    #[error(
        "{} holds a sheet of more than {} MiB of text, far more than a workbook of its size has; is it meant to do harm? \
         (--max-expansion permits more)",
        path.display(), limit >> 20
    )]
    SheetTooLarge {
        /// The file.
        path: PathBuf,
        /// The limit in bytes.
        limit: u64,
    },
    /// There are more columns than the limit.
    #[error(
        "{}: there are {columns} headings; at most {limit} columns are read (--max-columns permits more)",
        path.display()
    )]
    TooManyColumns {
        /// The file.
        path: PathBuf,
        /// How many there are.
        columns: usize,
        /// The limit.
        limit: usize,
    },
    /// A packed file unpacks to more than the limit.
    #[error(
        "{} unpacks to more than {limit} times its size; is it meant to do harm? (--max-expansion permits more)",
        path.display()
    )]
    Expands {
        /// The file.
        path: PathBuf,
        /// How many times its packed size it may hold.
        limit: u64,
    },
    /// A packed file cannot be unpacked.
    #[error("cannot unpack {}: its {packing} data is damaged or cut off ({source})", path.display())]
    Unpack {
        /// The file.
        path: PathBuf,
        /// How it is packed.
        packing: &'static str,
        /// Why.
        source: io::Error,
    },
    /// The bytes beyond ASCII are those of another encoding.
    #[error("{} is not in UTF-8 but probably in {encoding}; state it with --encoding {encoding}", path.display())]
    OtherEncoding {
        /// The file.
        path: PathBuf,
        /// Which encoding fits them best.
        encoding: &'static str,
    },
    /// A character is not there in the encoding of an output.
    #[error(
        "{}: {encoding} has no character for {letter:?}; write utf-8, or another encoding (`encoding` in [write])",
        path.display()
    )]
    Unwritable {
        /// The output.
        path: PathBuf,
        /// The character.
        letter: char,
        /// The encoding.
        encoding: &'static str,
    },
    /// A workbook cannot hold the rows.
    #[error("{} would hold {what}, more than a sheet takes; {instead}", path.display())]
    TooMuchForSheet {
        /// The output.
        path: PathBuf,
        /// What it would hold.
        what: String,
        /// What to do instead.
        instead: &'static str,
    },
    /// A part of a workbook cannot be read.
    #[error("cannot read {}: {part} is damaged ({what})", path.display())]
    Damaged {
        /// The file.
        path: PathBuf,
        /// The part.
        part: String,
        /// What is wrong with it.
        what: String,
    },
    /// Several arrays of a JSON text hold records.
    #[error("{}: several of its arrays hold records: {places}; name one with --at", path.display())]
    SeveralArrays {
        /// The file.
        path: PathBuf,
        /// Where they stand, as JSON Pointers.
        places: String,
    },
    /// Nothing stands where the records of a JSON text should.
    #[error("{}: nothing stands at {place}; --at takes a JSON Pointer (RFC 6901), such as /data/trees", path.display())]
    NoSuchPlace {
        /// The file.
        path: PathBuf,
        /// The place.
        place: String,
    },
    /// A file whose records cannot be rewritten in place.
    #[error(
        "{}: its records ({form}) cannot be found again as they stand there, so that none is rewritten; write them as an array, one object each",
        path.display()
    )]
    NotMended {
        /// The file.
        path: PathBuf,
        /// Its form.
        form: &'static str,
    },
    /// An option does not apply to a file of this form.
    #[error("{}: --{option} does not apply to {form}; leave it out", path.display())]
    NotForForm {
        /// The file.
        path: PathBuf,
        /// The option, without its hyphens.
        option: &'static str,
        /// What the file is, in words.
        form: &'static str,
    },
    /// A stated sheet is not there.
    #[error("{} has no sheet {sheet}; its sheets are: {sheets}", path.display())]
    NoSuchSheet {
        /// The file.
        path: PathBuf,
        /// The sheet.
        sheet: String,
        /// All sheets.
        sheets: String,
    },
    /// A sheet was stated for a file that has none.
    #[error("{} is no workbook, so it has no sheet to choose", path.display())]
    NoSheets {
        /// The file.
        path: PathBuf,
    },
    /// A stated row is not there.
    #[error("{}: there is no row {row}; the last row is {last}", path.display())]
    NoSuchRow {
        /// The file.
        path: PathBuf,
        /// The row.
        row: u64,
        /// The last row there is.
        last: u64,
    },
    /// A stated row lies too far down to begin there.
    #[error("{}: row {row} is not among the first {}; the headings and the first row must be", path.display(), size(*limit))]
    RowTooFar {
        /// The file.
        path: PathBuf,
        /// The row.
        row: u64,
        /// How many bytes are looked at.
        limit: usize,
    },
    /// The stated heading row is blank.
    #[error("{}: row {row} holds nothing, so it cannot hold the headings", path.display())]
    BlankHeadings {
        /// The file.
        path: PathBuf,
        /// The row.
        row: u64,
    },
    /// The stated first row is not below the headings.
    #[error("{}: the first row {first} must stand below the headings in row {heading}", path.display())]
    FirstRowAbove {
        /// The file.
        path: PathBuf,
        /// The first row.
        first: u64,
        /// The heading row.
        heading: u64,
    },
    /// The stated last row stands above the first.
    #[error("{}: the last row {last} stands above the first row {first}", path.display())]
    LastRowAbove {
        /// The file.
        path: PathBuf,
        /// The last row.
        last: u64,
        /// The first row.
        first: u64,
    },
    /// The file was changed during the run.
    #[error("{} was changed while it was read; check it again", path.display())]
    Changed {
        /// The file.
        path: PathBuf,
    },
    /// An output cannot be written.
    #[error("cannot write {}: {}", path.display(), reason(source))]
    Write {
        /// The file.
        path: PathBuf,
        /// Why.
        source: io::Error,
    },
    /// Something else than a file stands where an output should.
    #[error("{} is {what}; outputs are written to regular files", path.display())]
    NoRegularFile {
        /// The place.
        path: PathBuf,
        /// What stands there.
        what: &'static str,
    },
    /// An output exists.
    #[error("{} exists already; choose another name, such as {}, or overwrite it with --force", path.display(), free.display())]
    Exists {
        /// The file.
        path: PathBuf,
        /// A name that is free.
        free: PathBuf,
    },
    /// An output is one of the inputs, or another output.
    #[error("{} would overwrite {what}; choose another name", path.display())]
    Overlap {
        /// The file.
        path: PathBuf,
        /// What it is.
        what: &'static str,
    },
    /// An output has an ending that stands for no form.
    #[error("{}: the ending of a file of {what} is {endings}", path.display())]
    Ending {
        /// The file.
        path: PathBuf,
        /// What would be written.
        what: &'static str,
        /// The endings there are.
        endings: &'static str,
    },
    /// Whoever reads a file ahead was broken off.
    #[error("{} could not be read to its end: its reader was broken off", path.display())]
    BrokenOff {
        /// The file.
        path: PathBuf,
    },
    /// No thread can be started.
    #[error("cannot start the thread that reads {}: {}", path.display(), reason(source))]
    NoThread {
        /// The file.
        path: PathBuf,
        /// Why.
        source: io::Error,
    },
    /// The temporary folder is the trouble.
    #[error("cannot keep what is read in the temporary folder {}: {}; TMPDIR names another one", folder.display(), reason(source))]
    Temporary {
        /// The folder.
        folder: PathBuf,
        /// Why.
        source: io::Error,
    },
    /// The run was interrupted.
    #[error("interrupted")]
    Interrupted,
}

/// What a file is that is no table.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
#[non_exhaustive]
pub enum Shape {
    /// An archive that is no workbook known here.
    #[error(
        "it looks like an archive, or a workbook of a form that is not read; save the sheet as XLSX or CSV"
    )]
    Archive,
    /// A workbook with a password.
    #[error("it is encrypted; save it without a password")]
    Encrypted,
    /// A compound file that is no workbook.
    #[error("it looks like an old document that is no workbook")]
    Compound,
    /// Something else that is known by its first bytes.
    #[error("it looks like {0}")]
    Known(&'static str),
    /// A byte that stands in no text.
    #[error("row {0} holds a NUL byte, which stands in no text")]
    Nul(u64),
    /// JSON without records.
    #[error(
        "it is JSON that holds no records, but {0}; records are objects in an array, in the one array that an object \
         holds or that --at names, or one a line"
    )]
    NoRecords(String),
    /// Bytes that are mostly no text.
    #[error("its bytes are no text")]
    NoText,
}

/// A size as people say it.
fn size(bytes: usize) -> String {
    match bytes {
        0..1024 => format!("{bytes} bytes"),
        1024..0x10_0000 => format!("{} KiB", bytes >> 10),
        _ => format!("{} MiB", bytes >> 20),
    }
}

/// The reason of the operating system, without its number.
fn reason(error: &io::Error) -> String {
    let text = error.to_string();
    let reason = text.split(" (os error").next().unwrap_or_default();
    let mut chars = reason.chars();
    chars.next().map(|first| first.to_lowercase().chain(chars).collect()).unwrap_or_default()
}

impl Error {
    /// The error itself, where others look for one of ours among their own.
    #[must_use]
    pub fn itself(&self) -> Option<&Self> {
        Some(self)
    }

    /// For a part of a workbook.
    pub(crate) fn damaged(path: &std::path::Path, part: &str, what: &str) -> Self {
        Self::Damaged { path: path.to_owned(), part: part.to_owned(), what: what.to_owned() }
    }

    /// For the temporary folder.
    pub(crate) fn temporary(source: io::Error) -> Self {
        Self::Temporary { folder: std::env::temp_dir(), source }
    }

    /// For an output.
    pub fn write(path: &std::path::Path, source: impl Into<io::Error>) -> Self {
        Self::Write { path: path.to_owned(), source: source.into() }
    }
}
