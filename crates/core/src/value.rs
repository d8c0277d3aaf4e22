//! Values of each kind: how a text is read, what it means, how it is written again.
//!
//! These are the plain readers, one value at a time, and the reference for the fast ways of `gate`.

pub mod date;
pub mod date_pattern;
pub mod duration;
pub mod email;
pub mod fixed;
mod marked;
pub mod marks;
pub mod month_names;
pub mod number;
mod pattern_words;
pub mod phone;
pub mod picklist;
pub mod put_words;
pub mod serial;
pub mod sheet_error;
pub mod suspicion;
pub mod text;
pub mod time;
pub mod truth;
pub mod truth_words;
pub mod web;
pub mod words;
pub mod zone;

pub use date::Date;
pub use date_pattern::{DatePattern, DateReading, NamedForm, PatternFault};
pub use duration::{Duration, DurationUnit};
pub use email::EmailFault;
pub use fixed::Fixed;
pub use marked::AroundNumber;
pub use marks::{Group, Marks, is_number_somehow, unit_behind};
pub use month_names::MonthNames;
pub use number::{Number, may_be_thousands};
pub use picklist::{Match, PickValue, Picklist};
pub use put_words::PutWords;
pub use text::{Case, Length, LengthUnit, Pattern};
pub use time::{Moment, MomentPattern, TimeOfDay, TimePattern};
pub use truth::Truth;
pub use words::FoldedWords;
pub use zone::Zone;
