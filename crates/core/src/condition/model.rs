//! Conditions, ready to be asked of rows.

use super::like::Pattern;
use crate::value::{Date, TimeOfDay};
use rust_decimal::Decimal;
use std::borrow::Cow;
use std::cmp::Ordering;

/// A condition, ready to be asked of rows.
#[derive(Debug, Clone)]
pub struct Condition {
    pub(crate) root: Node,
    /// The fields that it looks at, ascending.
    pub fields: Vec<usize>,
}

/// What values are, as conditions tell them apart.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Type {
    /// Text.
    Text,
    /// A number.
    Number,
    /// Yes or no.
    Boolean,
    /// A day.
    Date,
    /// A time of day.
    Time,
    /// A day with a time.
    Moment,
    /// A code of the picklist of this number.
    Code(usize),
    /// Nothing: NULL alone.
    Null,
}

impl Type {
    /// The type in words.
    #[must_use]
    pub const fn words(self) -> &'static str {
        match self {
            Self::Text => "text",
            Self::Number => "a number",
            Self::Boolean => "yes or no",
            Self::Date => "a date",
            Self::Time => "a time",
            Self::Moment => "a date with a time",
            Self::Code(_) => "a picklist value",
            Self::Null => "NULL",
        }
    }
}

/// A value of a type.
#[derive(Debug, Clone, PartialEq)]
pub enum Scalar<'a> {
    /// Text, and the codes of picklists.
    Text(Cow<'a, str>),
    /// A number.
    Number(Decimal),
    /// A quotient without an end: one number above another, which is not negative.
    Ratio(Decimal, Decimal),
    /// Yes or no.
    Boolean(bool),
    /// A day.
    Date(Date),
    /// A time of day.
    Time(TimeOfDay),
    /// An instant, in nanoseconds.
    Moment(i128),
}

/// A part of a condition.
#[derive(Debug, Clone)]
pub(crate) enum Node {
    Field(usize),
    Value(Scalar<'static>),
    Null,
    Today,
    Compare(Order, Box<Node>, Box<Node>),
    And(Box<Node>, Box<Node>),
    Or(Box<Node>, Box<Node>),
    Not(Box<Node>),
    IsNull(Box<Node>, bool),
    IsTruth(Box<Node>, Option<bool>, bool),
    In(Box<Node>, Vec<Node>, bool),
    Like(Box<Node>, Pattern, bool),
    Negate(Box<Node>),
    Arithmetic(Arithmetic, Box<Node>, Box<Node>),
    Call(Function, Vec<Node>),
    Member(String, usize),
}

/// A comparison.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Order {
    Equal,
    Different,
    Less,
    AtMost,
    More,
    AtLeast,
}

impl Order {
    /// Whether it holds of two values in this order.
    pub(crate) fn holds(self, ordering: Ordering) -> bool {
        match self {
            Self::Equal => ordering.is_eq(),
            Self::Different => ordering.is_ne(),
            Self::Less => ordering.is_lt(),
            Self::AtMost => ordering.is_le(),
            Self::More => ordering.is_gt(),
            Self::AtLeast => ordering.is_ge(),
        }
    }

    /// The same with its sides exchanged.
    pub(crate) const fn turned(self) -> Self {
        match self {
            Self::Equal | Self::Different => self,
            Self::Less => Self::More,
            Self::AtMost => Self::AtLeast,
            Self::More => Self::Less,
            Self::AtLeast => Self::AtMost,
        }
    }
}

/// An operation on numbers, or on days.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Arithmetic {
    Add,
    Subtract,
    Multiply,
    Divide,
}

/// A function.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Function {
    Length,
    Upper,
    Lower,
    Coalesce,
    Abs,
}
