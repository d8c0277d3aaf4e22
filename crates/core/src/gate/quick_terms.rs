//! Numbers, lengths and days, read from the bytes of a row's cells, and what is reckoned with them.
//!
//! Before you change this: what comes out is what `condition` would reckon, or [`Read::Nothing`]; that reckons with decimals
//! of 28 digits, exactly or not at all.

use super::compiled::Compiled;
use super::evidence::Way;
use super::kinds::Program;
use crate::block::Block;
use crate::condition::{Arithmetic, Function, Node, Scalar};
use crate::rows::Cells;
use crate::scan::{Dialect, is_plain};
use crate::value::{Date, Fixed};

/// What is reckoned for each row.
#[derive(Debug)]
pub(super) enum Term {
    Fixed(Fixed),
    /// A number of plain digits; `points` where a point begins its decimals.
    Number {
        column: usize,
        points: bool,
    },
    /// The characters of a text.
    Length {
        column: usize,
    },
    /// An ISO day, by its number.
    Day {
        column: usize,
    },
    Sum(Box<Term>, Box<Term>),
    Difference(Box<Term>, Box<Term>),
    Product(Box<Term>, Box<Term>),
}

/// What a term comes to.
#[derive(Debug, Clone, Copy)]
pub(super) enum Read {
    Number(Fixed),
    /// A value is missing.
    Missing,
    /// It takes a closer look.
    Nothing,
}

impl Term {
    /// The term of a part of a condition, and whether it is a day; nothing where there is none. `program` gives the column
    /// and the rules of fields whose cells can be read as they are.
    pub(super) fn of<'p>(
        node: &Node,
        gate: &Compiled,
        program: &impl Fn(usize) -> Option<(usize, &'p Program)>,
    ) -> Option<(Self, bool)> {
        Some(match node {
            Node::Value(Scalar::Number(number)) => (Self::Fixed((*number).into()), false),
            Node::Value(Scalar::Date(day)) => (Self::day(*day), true),
            Node::Today => (Self::day(gate.settings.today), true),
            Node::Field(field) => {
                let (column, program) = program(*field)?;
                match program {
                    Program::Date(_) if program.is_iso_date() => (Self::Day { column }, true),
                    program => (Self::Number { column, points: points(program)? }, false),
                }
            }
            Node::Call(Function::Length, args) => {
                let [Node::Field(field)] = args.as_slice() else { return None };
                let (column, program) = program(*field)?;
                (program.is_verbatim().then_some(Self::Length { column })?, false)
            }
            Node::Negate(inner) => {
                let (inner, false) = Self::of(inner, gate, program)? else { return None };
                (Self::Difference(Box::new(Self::Fixed(Fixed::ZERO)), Box::new(inner)), false)
            }
            Node::Arithmetic(operation, left, right) => {
                let (left, is_day) = Self::of(left, gate, program)?;
                let (right, is_other_day) = Self::of(right, gate, program)?;
                let (left, right) = (Box::new(left), Box::new(right));
                match (operation, is_day, is_other_day) {
                    (Arithmetic::Add, false, false) => (Self::Sum(left, right), false),
                    (Arithmetic::Subtract, false, false) | (Arithmetic::Subtract, true, true) => {
                        (Self::Difference(left, right), false)
                    }
                    (Arithmetic::Multiply, false, false) => (Self::Product(left, right), false),
                    _ => return None,
                }
            }
            _ => return None,
        })
    }

    fn day(day: Date) -> Self {
        Self::Fixed(Fixed::whole(day.number()))
    }

    /// The columns that it reads.
    pub(super) fn columns(&self, into: &mut Vec<usize>) {
        match self {
            Self::Fixed(_) => {}
            Self::Number { column, .. } | Self::Length { column } | Self::Day { column } => {
                into.push(*column)
            }
            Self::Sum(one, other) | Self::Difference(one, other) | Self::Product(one, other) => {
                one.columns(into);
                other.columns(into);
            }
        }
    }

    /// What it comes to in a row.
    pub(super) fn read(&self, block: &Block, cells: &Cells, row: usize, dialect: Dialect) -> Read {
        let raw = |column: usize| {
            let (start, end) = cells.cell(row, column);
            block.buffer.get(start..end).unwrap_or_default()
        };
        match self {
            Self::Fixed(number) => Read::Number(*number),
            Self::Number { column, points } => number(raw(*column), *points),
            Self::Length { column } => length(raw(*column), dialect),
            Self::Day { column } => {
                let (start, end) = cells.cell(row, *column);
                match iso_day(&block.buffer, start, end) {
                    None if start == end => Read::Missing,
                    Some(_) => day(raw(*column)),
                    None => Read::Nothing,
                }
            }
            Self::Sum(one, other) | Self::Difference(one, other) | Self::Product(one, other) => {
                let both = (one.read(block, cells, row, dialect), other.read(block, cells, row, dialect));
                let (one, other) = match both {
                    (Read::Number(one), Read::Number(other)) => (one, other),
                    (Read::Nothing, _) | (_, Read::Nothing) => return Read::Nothing,
                    _ => return Read::Missing,
                };
                let reckoned = match self {
                    Self::Sum(..) => one.checked_add(other),
                    Self::Difference(..) => one.checked_add(other.negated()),
                    _ => one.checked_mul(other),
                };
                reckoned.filter(|number| number.is_short()).map_or(Read::Nothing, Read::Number)
            }
        }
    }
}

/// Whether a point begins the decimals of a number; nothing where it is none, or where that cannot be told.
pub(super) fn points(program: &Program) -> Option<bool> {
    match program {
        Program::Integer(_) => Some(false),
        Program::Decimal(decimal) => Some(match decimal.marks {
            Some(marks) => marks.decimal == '.',
            None => matches!(decimal.way, None | Some(Way::First)),
        }),
        _ => None,
    }
}

fn number(raw: &[u8], points: bool) -> Read {
    match Fixed::plain(raw) {
        None if raw.is_empty() => Read::Missing,
        Some(number) if points || number.after() == 0 => Read::Number(number),
        _ => Read::Nothing,
    }
}

/// How many characters a text has that is its own value.
fn length(raw: &[u8], dialect: Dialect) -> Read {
    if raw.is_empty() {
        return Read::Missing;
    }
    if !is_plain(raw, dialect) {
        return Read::Nothing;
    }
    let count = match raw.is_ascii() {
        true => raw.len(),
        false => match std::str::from_utf8(raw) {
            Ok(text) => text.chars().count(),
            Err(_) => return Read::Nothing,
        },
    };
    i64::try_from(count).map_or(Read::Nothing, |count| Read::Number(Fixed::whole(count)))
}

/// The number of a day that looks like an ISO day.
fn day(raw: &[u8]) -> Read {
    let part = |from: usize, to: usize| {
        let digits = raw.get(from..to)?;
        digits
            .iter()
            .try_fold(0_u16, |sum, digit| digit.is_ascii_digit().then(|| sum * 10 + u16::from(digit - b'0')))
    };
    let date = || {
        let (month, day) = (u8::try_from(part(5, 7)?).ok()?, u8::try_from(part(8, 10)?).ok()?);
        Date::new(part(0, 4)?, month, day)
    };
    date().map_or(Read::Nothing, |date| Read::Number(Fixed::whole(date.number())))
}

/// The bytes of a cell that looks like an ISO day, as numbers that are in the order of days. What has no stop and looks
/// so is one.
#[inline(always)]
pub(super) fn iso_day(buffer: &[u8], start: usize, end: usize) -> Option<(u64, u16)> {
    let raw: &[u8; 10] = buffer.get(start..end)?.try_into().ok()?;
    let &[a, b, c, d, b'-', e, f, b'-', g, h] = raw else { return None };
    Some((u64::from_be_bytes([a, b, c, d, b'-', e, f, b'-']), u16::from_be_bytes([g, h])))
}
