//! Tables in and out: delimited text as blocks of rows, ready and held rows, the list of findings, and
//! writing that is whole or not at all.

mod book;
mod effects_file;
mod error;
mod findings_file;
mod held_file;
mod json;
mod layout;
mod lists;
mod made_rows;
mod marked;
mod mended;
mod output;
mod pieces;
mod plain_book;
mod plain_list;
mod reconcile_file;
mod row_output;
mod rows_file;
mod second_walk;
mod small;
mod table_file;
mod template_file;
mod text;
mod workbook;

pub use book::{FrontLine, FrontLook, Limit, MarkSum, Sheet, meant_by};
pub use effects_file::{effects, missing};
pub use error::{Error, Shape};
pub use findings_file::FindingsFile;
pub use held_file::{HeldFile, held_file, plan_of_held};
pub use layout::{Fact, How};
pub use lists::ListFiles;
pub use made_rows::MadeRows;
pub use marked::{MARKED_ENDINGS, mark, marked_ending};
pub use mended::{MENDED_ENDINGS, MendSum, Mending, is_mended_anew, mend};
pub use output::{Output, Outputs};
pub use reconcile_file::reconcile;
pub use row_output::RowOutput;
pub use rows_file::{RowWriters, Written, write_rows};
pub use small::read_small;
pub use table_file::TableFile;
pub use template_file::{TEMPLATE_ENDINGS, write_template};
pub use text::{Input, Limits, Packing, ReadOptions, delimiter_name};
