//! Asking a condition of a row, with the three truths of SQL: true, false, unknown.

use super::model::{Arithmetic, Condition, Function, Node, Scalar};
use crate::value::Date;
use rust_decimal::Decimal;
use std::borrow::Cow;
use std::cmp::Ordering;

/// What a field of a row is.
#[derive(Debug, Clone, PartialEq)]
pub enum Held<'a> {
    /// Nothing.
    Null,
    /// What only the target knows.
    Unknown,
    /// Something that cannot be read: filled, but without a value.
    Spoilt,
    /// A value.
    Value(Scalar<'a>),
    /// Several codes.
    Many(Vec<Cow<'a, str>>),
}

/// A row, as conditions see it.
pub trait Cells {
    /// What the field is.
    fn held(&self, field: usize) -> Held<'_>;

    /// The day of the run.
    fn today(&self) -> Date;
}

/// Whether a condition holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Holds {
    /// It does.
    Yes,
    /// It does not.
    No,
    /// That cannot be told.
    Unknown,
}

impl From<Option<bool>> for Holds {
    fn from(truth: Option<bool>) -> Self {
        match truth {
            Some(true) => Self::Yes,
            Some(false) => Self::No,
            None => Self::Unknown,
        }
    }
}

impl Condition {
    /// Whether it holds of the row.
    pub fn holds<C: Cells>(&self, row: &C) -> Holds {
        truth(&self.root, row).into()
    }
}

/// A value, or nothing: NULL and unknown are the same but for IS NULL.
fn value<'a, C: Cells>(node: &'a Node, row: &'a C) -> Option<Scalar<'a>> {
    match node {
        Node::Field(field) => match row.held(*field) {
            Held::Value(value) => Some(value),
            Held::Null | Held::Unknown | Held::Spoilt | Held::Many(_) => None,
        },
        Node::Value(value) => Some(value.clone()),
        Node::Null => None,
        Node::Today => Some(Scalar::Date(row.today())),
        Node::Negate(inner) => match value(inner, row)? {
            Scalar::Number(number) => Some(Scalar::Number(-number)),
            Scalar::Ratio(over, under) => Some(Scalar::Ratio(-over, under)),
            _ => None,
        },
        Node::Arithmetic(operation, left, right) => {
            arithmetic(*operation, value(left, row)?, value(right, row)?)
        }
        Node::Call(function, args) => call(*function, args, row),
        _ => truth(node, row).map(Scalar::Boolean),
    }
}

fn truth<C: Cells>(node: &Node, row: &C) -> Option<bool> {
    match node {
        Node::And(left, right) => match truth(left, row) {
            Some(false) => Some(false),
            left => match (left, truth(right, row)) {
                (_, Some(false)) => Some(false),
                (Some(true), right) => right,
                _ => None,
            },
        },
        Node::Or(left, right) => match truth(left, row) {
            Some(true) => Some(true),
            left => match (left, truth(right, row)) {
                (_, Some(true)) => Some(true),
                (Some(false), right) => right,
                _ => None,
            },
        },
        Node::Not(inner) => truth(inner, row).map(|truth| !truth),
        Node::Compare(order, left, right) => {
            let ordering = compared(&value(left, row)?, &value(right, row)?)?;
            Some(order.holds(ordering))
        }
        Node::IsNull(inner, negated) => is_null(inner, row).map(|is_null| is_null != *negated),
        Node::IsTruth(inner, wanted, negated) => Some((truth(inner, row) == *wanted) != *negated),
        Node::In(inner, list, negated) => is_among(inner, list, row).map(|is_in| is_in != *negated),
        Node::Like(inner, pattern, negated) => match value(inner, row)? {
            Scalar::Text(text) => Some(pattern.fits(text.as_bytes()) != *negated),
            _ => None,
        },
        Node::Member(word, field) => match row.held(*field) {
            Held::Many(values) => Some(values.iter().any(|value| value == word)),
            Held::Value(Scalar::Text(one)) => Some(one == *word),
            _ => None,
        },
        node => match value(node, row)? {
            Scalar::Boolean(truth) => Some(truth),
            _ => None,
        },
    }
}

/// So that one fault is not told twice, a cell that has a stop is filled.
fn is_null<C: Cells>(node: &Node, row: &C) -> Option<bool> {
    let Node::Field(field) = node else { return Some(value(node, row).is_none()) };
    match row.held(*field) {
        Held::Null => Some(true),
        Held::Value(_) | Held::Many(_) | Held::Spoilt => Some(false),
        Held::Unknown => None,
    }
}

fn is_among<C: Cells>(node: &Node, list: &[Node], row: &C) -> Option<bool> {
    let found = value(node, row)?;
    let mut is_unknown = false;
    for one in list {
        match value(one, row) {
            Some(one) if compared(&found, &one) == Some(Ordering::Equal) => return Some(true),
            Some(_) => {}
            None => is_unknown = true,
        }
    }
    (!is_unknown).then_some(false)
}

fn compared(one: &Scalar<'_>, other: &Scalar<'_>) -> Option<Ordering> {
    Some(match (one, other) {
        // Bytes of UTF-8 are in the order of code points.
        (Scalar::Text(one), Scalar::Text(other)) => one.as_bytes().cmp(other.as_bytes()),
        (Scalar::Number(one), Scalar::Number(other)) => one.cmp(other),
        (Scalar::Number(_) | Scalar::Ratio(..), Scalar::Number(_) | Scalar::Ratio(..)) => {
            // Nothing below a line is negative.
            let ((over, under), (other_over, other_under)) = (one.ratio()?, other.ratio()?);
            product(over, other_under)?.cmp(&product(other_over, under)?)
        }
        (Scalar::Boolean(one), Scalar::Boolean(other)) => one.cmp(other),
        (Scalar::Date(one), Scalar::Date(other)) => one.cmp(other),
        (Scalar::Time(one), Scalar::Time(other)) => one.cmp(other),
        (Scalar::Moment(one), Scalar::Moment(other)) => one.cmp(other),
        _ => return None,
    })
}

fn arithmetic<'a>(operation: Arithmetic, one: Scalar<'a>, other: Scalar<'a>) -> Option<Scalar<'a>> {
    match (one, other) {
        (Scalar::Number(one), Scalar::Number(other)) => match operation {
            Arithmetic::Add => sum(one, other).map(Scalar::Number),
            Arithmetic::Subtract => sum(one, -other).map(Scalar::Number),
            Arithmetic::Multiply => product(one, other).map(Scalar::Number),
            Arithmetic::Divide => quotient(one, other),
        },
        (one @ (Scalar::Number(_) | Scalar::Ratio(..)), other @ (Scalar::Number(_) | Scalar::Ratio(..))) => {
            let ((a, b), (c, d)) = (one.ratio()?, other.ratio()?);
            match operation {
                Arithmetic::Add => quotient(sum(product(a, d)?, product(c, b)?)?, product(b, d)?),
                Arithmetic::Subtract => quotient(sum(product(a, d)?, -product(c, b)?)?, product(b, d)?),
                Arithmetic::Multiply => quotient(product(a, c)?, product(b, d)?),
                Arithmetic::Divide => quotient(product(a, d)?, product(b, c)?),
            }
        }
        (Scalar::Date(date), Scalar::Number(days)) => {
            let days: i64 = if days.fract().is_zero() { days.trunc().try_into().ok()? } else { return None };
            let days = if operation == Arithmetic::Subtract { days.checked_neg()? } else { days };
            Date::from_number(date.number().checked_add(days)?).map(Scalar::Date)
        }
        (Scalar::Date(one), Scalar::Date(other)) => {
            Some(Scalar::Number(Decimal::from(one.number() - other.number())))
        }
        _ => None,
    }
}

impl Scalar<'_> {
    /// A number as one above another.
    fn ratio(&self) -> Option<(Decimal, Decimal)> {
        match self {
            Self::Number(number) => Some((*number, Decimal::ONE)),
            Self::Ratio(over, under) => Some((*over, *under)),
            _ => None,
        }
    }
}

/// A sum to which nothing was rounded; nothing where it has more digits than can be held.
fn sum(one: Decimal, other: Decimal) -> Option<Decimal> {
    // What is added to a nought keeps its own digits.
    match (one.is_zero(), other.is_zero()) {
        (_, true) => Some(one),
        (true, _) => Some(other),
        _ => exact(one, other, Decimal::checked_add, u32::max),
    }
}

/// A product to which nothing was rounded.
fn product(one: Decimal, other: Decimal) -> Option<Decimal> {
    if one.is_zero() || other.is_zero() {
        return Some(Decimal::ZERO);
    }
    exact(one, other, Decimal::checked_mul, |a, b| a + b)
}

/// A quotient: a number where it has an end, else one number above another, so that nothing is rounded.
fn quotient<'a>(one: Decimal, other: Decimal) -> Option<Scalar<'a>> {
    if other.is_zero() {
        return None;
    }
    let found = one.checked_div(other).map(|found| found.normalize());
    if let Some(found) = found.filter(|found| product(*found, other) == Some(one)) {
        return Some(Scalar::Number(found));
    }
    let (one, other) = if other.is_sign_negative() { (-one, -other) } else { (one, other) };
    Some(Scalar::Ratio(one, other))
}

/// A result to which nothing was rounded: it has all the digits after the point that it must have, zeros that carry
/// nothing aside.
fn exact(
    one: Decimal,
    other: Decimal,
    operate: fn(Decimal, Decimal) -> Option<Decimal>,
    scale: fn(u32, u32) -> u32,
) -> Option<Decimal> {
    let (one, other) = (one.normalize(), other.normalize());
    let number = operate(one, other)?;
    (number.is_zero() && !one.is_zero() && one == -other
        || number.is_zero() && (one.is_zero() || other.is_zero())
        || number.scale() >= scale(one.scale(), other.scale()))
    .then_some(number)
}

fn call<'a, C: Cells>(function: Function, args: &'a [Node], row: &'a C) -> Option<Scalar<'a>> {
    let first = || value(args.first()?, row);
    match function {
        Function::Coalesce => args.iter().find_map(|arg| value(arg, row)),
        Function::Abs => match first()? {
            Scalar::Number(number) => Some(Scalar::Number(number.abs())),
            Scalar::Ratio(over, under) => Some(Scalar::Ratio(over.abs(), under)),
            _ => None,
        },
        function => match first()? {
            Scalar::Text(text) => Some(match function {
                Function::Upper => Scalar::Text(text.to_uppercase().into()),
                Function::Lower => Scalar::Text(text.to_lowercase().into()),
                _ => Scalar::Number(Decimal::from(text.chars().count())),
            }),
            _ => None,
        },
    }
}
