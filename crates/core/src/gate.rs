//! The gate: a record schema, a file's headings and the settings of a run, compiled once; then every block
//! of rows is judged by it, in any order and on any thread.

mod alike;
mod alike_sums;
mod assembly;
mod at_heading;
mod cell_words;
mod circles;
mod clues;
mod compiled;
mod content;
mod cycles;
mod decided;
mod defaults;
mod describe;
mod evidence;
mod fixed_columns;
mod form;
mod forming;
mod gathered;
mod guard;
mod hashing;
mod heads;
mod judge;
mod keyset;
mod keysets;
mod keystore;
mod kinds;
mod lacking;
mod lines;
mod mark;
mod marking;
mod memo;
mod mending;
mod numbers;
mod opening;
mod places;
mod plain_text;
mod probes;
mod quick;
mod records_of;
mod repeat;
mod repeats;
mod row_kinds;
mod row_views;
mod rules;
mod seen;
mod settings;
mod standing;
mod state;
mod sweep;
mod tallies;
mod there;
mod total;
mod translated;
mod unchangeable;
mod value_told;
mod verdict;
mod ways;
mod wording;
mod words;
mod wordset;
mod writing;
mod writing_words;

pub use assembly::Gate;
pub(crate) use at_heading::at_heading;
pub use circles::Cycles;
pub use clues::{Clue, Clues, DateCount, Hint, Shift, date_candidates};
pub use compiled::Compiled;
pub use content::{Contents, FieldProbe, Fit};
pub use evidence::Votes;
pub use gathered::Rewriting;
pub(crate) use gathered::{FIRST_OF_EACH, MOST_KEPT};
pub use judge::{Judge, Judged};
pub use keystore::{SuspectRow, Suspects};
pub use lines::RecordRows;
pub use mending::{MENDABLE, Mend, Mender};
pub use probes::{Shares, key_parts};
pub use records_of::RecordsOf;
pub(crate) use repeats::Confirm;
pub use repeats::{RepeatGroup, Repeats};
pub use row_kinds::RowKind;
pub use row_views::{FieldReader, NewValue, ReadyField, RowView, RowsOf};
pub use settings::Settings;
pub use state::RunState;
pub use tallies::{Counted, Tallies, Tally};
pub(crate) use total::Ending;
pub use translated::Translated;
pub use value_told::{Taken, ValueCounts, ValueTold};
pub use words::{WordCount, Words};

#[cfg(test)]
mod tests;

#[cfg(test)]
mod wording_tests;

#[cfg(test)]
mod written_tests;
