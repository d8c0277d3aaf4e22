//! The built program, run on files in a temporary folder.

#![allow(clippy::unwrap_used, clippy::indexing_slicing, reason = "a test that panics has failed")]

#[cfg(unix)]
mod asking;
mod bad_input;
mod books;
mod breaking;
mod causes;
#[cfg(unix)]
mod cluster;
mod codes;
mod dates;
mod docs;
mod draft;
mod dresses;
mod evidence;
mod existing;
mod fields;
mod fuzz_finds;
mod hostile;
mod house;
mod json_tables;
mod kinds;
mod layout;
mod lines;
mod loading;
mod marked;
mod matching;
mod mend;
mod outcome;
mod outputs;
mod peek;
mod placing;
mod plan;
mod program;
mod receipts;
mod referee;
mod report;
mod report_files;
mod round_trips;
mod rounds;
mod rules;
mod scripts;
#[cfg(unix)]
mod server;
mod short_ways;
mod sieved;
mod sizes;
mod spellings;
mod strange_letters;
mod structure;
mod template;
mod tool;
mod walks;
mod whole_rows;
mod words_put;
