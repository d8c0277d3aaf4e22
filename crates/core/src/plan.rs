//! The plan: how one recurring file is read and paired, and what it may change.

mod check;
mod edit;
pub mod raw;
mod stated;
mod text;

pub use check::{delimiter_of, is_permitted, place};
pub use edit::{EMPTY, PlanEdit, edited, scoped};
pub use stated::{
    ExistingPlan, LineEnd, Plan, PlanFile, Reading, ReferencePlan, ScopeOf, SourcePlan, Stands, Tolerance,
    Writing, WrittenColumn,
};
pub use text::PlanText;

#[cfg(test)]
mod tests;
