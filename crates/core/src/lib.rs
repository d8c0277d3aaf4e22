//! What a record is, what a finding is, and how rows are judged.
//!
//! Nothing here prints, reads a file, asks the clock or knows a terminal: bytes come in as blocks of rows,
//! the day of the run comes in as a value, and what goes out is data.
//!
//! From a schema's text to a report:
//!
//! ```
//! use tidy_gate_core::gate::{Gate, Settings};
//! use tidy_gate_core::mode::Mode;
//! use tidy_gate_core::report::{FileFacts, Report, Tool};
//! use tidy_gate_core::run::{self, RowsInMemory, Unlisted, Unwatched};
//! use tidy_gate_core::schema::{NoLists, RecordSchema};
//! use tidy_gate_core::table::Table;
//! use tidy_gate_core::value::Date;
//!
//! let schema = r#"
//!     format = 1
//!     record = "tree"
//!     key = ["tag"]
//!     [[field]]
//!     name = "tag"
//!     kind = "text"
//!     [[field]]
//!     name = "girth"
//!     kind = "decimal"
//! "#;
//! let schema = RecordSchema::read(schema, &mut NoLists).unwrap();
//! let today = Date::new(2026, 11, 29).unwrap();
//! let table = Table::with_headings(vec!["tag".to_owned(), "girth".to_owned()]);
//! let mut gate = Gate::new(schema, Settings::plain(Mode::Add, today), table);
//!
//! // The first row stands below the headings, in row 2.
//! let rows = RowsInMemory::new(b"HT-001,142.5\nHT-002,wide\n", 2);
//! let mut begin = || Ok(None::<Unlisted>);
//! let (outcome, _) = run::check(&mut gate, &rows, 1, &Unwatched, &mut begin).unwrap();
//! let tool = Tool { name: "tidy-gate".to_owned(), version: "0".to_owned() };
//! let report = Report::new(&gate, &outcome, FileFacts::default(), None, tool);
//! assert_eq!((report.counts.rows, report.counts.held), (2, 1));
//! assert_eq!(report.findings[0].code.to_string(), "decimal-bad");
//! ```

pub mod aside;
pub mod block;
pub mod catalogue;
pub mod causes;
pub mod column_texts;
pub mod condition;
pub mod decided;
pub mod draft;
pub mod effects;
pub mod existing;
pub mod export;
pub mod fault;
pub mod fields;
pub mod finding;
pub mod gate;
pub mod headings;
pub mod letters;
pub mod likeness;
pub mod matching;
pub mod misfire;
pub mod mode;
pub mod numerals;
pub mod order;
pub mod origins;
pub mod overview;
pub mod peek;
pub mod plan;
pub mod prints;
pub mod profile;
pub mod receipt;
pub mod reconcile;
pub mod report;
pub mod rounds;
mod rows;
pub mod run;
pub mod schema;
mod straight;
pub mod table;
pub mod template;
mod toml_homes;
mod toml_shape;
mod toml_text;
pub mod value;

pub use tidy_gate_scan as scan;
