//! What the columns of a table hold, looked at without any rule: how full they are, what kind of value they seem
//! to hold, their extremes, and what is odd.

mod column;
mod kind;
mod likely;
mod profiler;
mod seen;
mod spread;

pub use column::{ColumnProfile, Oddity};
pub(crate) use kind::{
    COMPACT, COUNT as FORM_COUNT, ENOUGH_COMPACT, Kinds, compact_class, day_and_time, form, is_compact_day,
    plainly, time_form, twins_of,
};
pub use kind::{Class, Mark};
pub(crate) use likely::Likely;
pub use profiler::{Profiler, RowLook};
pub use seen::Seen;
pub use spread::Spread;

#[cfg(test)]
mod tests;
