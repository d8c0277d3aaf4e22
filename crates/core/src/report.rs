//! The report: what a check found, as data. Every renderer reads this and nothing else; as JSON it is the
//! report of format 1, whose keys never change their meaning.

mod columns;
mod make;
mod rewriting;
mod shown;
mod totals;
pub(crate) mod v1;

pub use columns::columns;
pub use v1::{
    ColumnReport, FileFacts, FilledReport, FindingReport, Place, Proposal, RecordFacts, Region, Report,
    ReportCounts, ToRewrite, Tool, Total, TranslatedReport, Unjudged, Verdict,
};
