//! Quick ways to the truth of conditions: told of a whole block, from the bytes of cells alone. Where one says nothing,
//! the condition itself is asked, which is the reference in tests.
//!
//! Before you change this: a quick way may say yes or no only where the condition would, and takes back what it said of
//! cells with a stop and of rows that take over what stands elsewhere (`withdraw`). The test of rules
//! `quick_conditions_judge_as_their_plain_twins` holds each against the condition itself.

use super::compiled::Compiled;
use super::evidence::Way;
use super::kinds::Program;
use super::wordset::WordSet;
use crate::block::Block;
use crate::condition::{Node, Order, Scalar};
use crate::rows::Cells;
use crate::value::Fixed;
use rust_decimal::Decimal;

/// What a quick way says of a row.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Says {
    /// The condition holds.
    Yes,
    /// It does not.
    No,
    /// It is to be asked.
    Nothing,
}

impl Says {
    /// Both of two.
    fn and(self, other: Self) -> Self {
        match (self, other) {
            (Self::No, _) | (_, Self::No) => Self::No,
            (Self::Yes, Self::Yes) => Self::Yes,
            _ => Self::Nothing,
        }
    }

    fn of(truth: bool) -> Self {
        if truth { Self::Yes } else { Self::No }
    }
}

/// A quick way to a truth, from the bytes of cells alone; where it says nothing, the condition is asked.
#[derive(Debug)]
pub(super) enum Quick {
    /// None.
    Slow,
    /// A picklist's value is one code: the words for it, and all words of the list.
    Code { column: usize, meant: WordSet, known: WordSet },
    /// One ISO day is compared with another.
    Days { columns: [usize; 2], order: Order },
    /// A number of plain digits is compared with a bound; `points` where a point begins its decimals.
    Number { column: usize, order: Order, bound: Fixed, points: bool },
    /// All of them hold.
    All(Vec<Quick>),
}

impl Quick {
    /// The quick way of a condition, as far as there is one.
    pub(super) fn of(root: &Node, gate: &Compiled) -> Self {
        // What cells hold may not be what the record will have.
        if gate.fills_only() {
            return Self::Slow;
        }
        let (order, left, right) = match root {
            Node::Compare(order, left, right) => (order, left, right),
            Node::And(left, right) => {
                return match (Self::of(left, gate), Self::of(right, gate)) {
                    (Self::Slow, Self::Slow) => Self::Slow,
                    (left, right) => Self::All(vec![left, right]),
                };
            }
            _ => return Self::Slow,
        };
        let program = |field: usize| {
            let column = gate.column_of(field).filter(|_| !gate.is_unchangeable(field))?;
            let seen = gate.columns.get(column)?;
            // Where a plan has words for blank, any cell may be one.
            seen.guard.is_none().then_some((column, &seen.program))
        };
        match (&**left, &**right) {
            (Node::Field(field), Node::Value(Scalar::Text(code)))
            | (Node::Value(Scalar::Text(code)), Node::Field(field))
                if *order == Order::Equal =>
            {
                let Some((column, Program::Picklist(listed))) = program(*field) else {
                    return Self::Slow;
                };
                let Some(picklist) = gate.schema.picklists.get(listed.list) else { return Self::Slow };
                let is_meant =
                    |value: usize| picklist.values.get(value).is_some_and(|value| value.code == **code);
                let words = |wanted: bool| {
                    let words = picklist.exact_words().filter(|word| is_meant(word.1) == wanted);
                    WordSet::new(words.map(|word| word.0))
                };
                Self::Code { column, meant: words(true), known: words(false) }
            }
            (Node::Field(one), Node::Field(other)) => match (program(*one), program(*other)) {
                (Some((one, day)), Some((other, other_day)))
                    if day.is_iso_date() && other_day.is_iso_date() =>
                {
                    Self::Days { columns: [one, other], order: *order }
                }
                _ => Self::Slow,
            },
            (Node::Field(field), Node::Value(Scalar::Number(bound))) => {
                Self::number(program(*field), *order, *bound)
            }
            (Node::Value(Scalar::Number(bound)), Node::Field(field)) => {
                Self::number(program(*field), order.turned(), *bound)
            }
            _ => Self::Slow,
        }
    }

    fn number(seen: Option<(usize, &Program)>, order: Order, bound: Decimal) -> Self {
        let points = match seen {
            Some((_, Program::Integer(_))) => false,
            Some((_, Program::Decimal(decimal))) => match decimal.marks {
                Some(marks) => marks.decimal == '.',
                None => matches!(decimal.way, None | Some(Way::First)),
            },
            _ => return Self::Slow,
        };
        match seen {
            Some((column, _)) => Self::Number { column, order, bound: bound.into(), points },
            None => Self::Slow,
        }
    }

    /// What the bytes of cells say of each row of a block. Cells with a stop, by row and column (from 1), say nothing.
    pub(super) fn tell(&self, block: &Block, cells: &Cells, stopped: &[(u32, u16)], says: &mut Vec<Says>) {
        let buffer = &block.buffer;
        says.clear();
        says.reserve(cells.len());
        match self {
            Self::Slow => says.resize(cells.len(), Says::Nothing),
            Self::Code { column, meant, known } => cells.each_in_column(*column, |_, start, end| {
                says.push(if known.holds(buffer, start, end - start) {
                    Says::No
                } else if meant.holds(buffer, start, end - start) {
                    Says::Yes
                } else {
                    Says::Nothing
                });
            }),
            Self::Days { columns: [one, other], order } => {
                let ((one, stride), (other, _)) = (cells.column_bounds(*one), cells.column_bounds(*other));
                let day = |bounds: &[u32]| match bounds {
                    [before, end, ..] => iso_day(buffer, before.wrapping_add(1) as usize, *end as usize),
                    _ => None,
                };
                let pairs = one.chunks_exact(stride).zip(other.chunks_exact(stride));
                // Days in this form are in the order of their letters.
                says.extend(pairs.map(|(one, other)| match (day(one), day(other)) {
                    (Some(one), Some(other)) => Says::of(order.holds(one.cmp(&other))),
                    _ => Says::Nothing,
                }));
            }
            Self::Number { column, order, bound, points } => {
                cells.each_in_column(*column, |_, start, end| {
                    let number = Fixed::plain(buffer.get(start..end).unwrap_or_default());
                    says.push(match number {
                        Some(number) if *points || number.after() == 0 => {
                            Says::of(order.holds(number.cmp(bound)))
                        }
                        _ => Says::Nothing,
                    });
                })
            }
            Self::All(parts) => {
                says.resize(cells.len(), Says::Yes);
                let mut of_part = Vec::new();
                for part in parts {
                    part.tell(block, cells, stopped, &mut of_part);
                    says.iter_mut().zip(&of_part).for_each(|(all, one)| *all = all.and(*one));
                }
            }
        }
        self.withdraw(cells, stopped, says);
    }

    /// Takes back what was said of cells with a stop, and of rows that take over what stands elsewhere.
    fn withdraw(&self, cells: &Cells, stopped: &[(u32, u16)], says: &mut [Says]) {
        let columns: &[usize] = match self {
            Self::Code { column, .. } | Self::Number { column, .. } => &[*column],
            Self::Days { columns, .. } => columns,
            Self::Slow | Self::All(_) => &[],
        };
        for (row, column) in stopped {
            if columns.iter().any(|own| *own + 1 == usize::from(*column))
                && let Some(slot) = says.get_mut(*row as usize)
            {
                *slot = Says::Nothing;
            }
        }
        // What a row takes over stands elsewhere.
        for (row, slot) in says.iter_mut().enumerate().filter(|_| cells.taken.is_some()) {
            if cells.is_below(row) {
                *slot = Says::Nothing;
            }
        }
    }
}

/// The bytes of a cell that looks like an ISO day, as numbers that are in the order of days. What has no stop and looks
/// so is one.
#[inline(always)]
fn iso_day(buffer: &[u8], start: usize, end: usize) -> Option<(u64, u16)> {
    let raw: &[u8; 10] = buffer.get(start..end)?.try_into().ok()?;
    let &[a, b, c, d, b'-', e, f, b'-', g, h] = raw else { return None };
    Some((u64::from_be_bytes([a, b, c, d, b'-', e, f, b'-']), u16::from_be_bytes([g, h])))
}
