//! Quick ways to the truth of conditions: told of a whole block, from the bytes of cells alone. Where one says nothing,
//! the condition itself is asked, which is the reference in tests.
//!
//! Before you change this: a quick way may say yes or no only where the condition would, and takes back what it said of
//! cells with a stop and of rows that take over what stands elsewhere (`withdraw`). The test of rules
//! `quick_conditions_judge_as_their_plain_twins` holds each against the condition itself.

use super::compiled::Compiled;
use super::kinds::Program;
use super::quick_terms::{Read, Term, iso_day, points};
use super::wordset::WordSet;
use crate::block::Block;
use crate::condition::{Node, Order, Pattern, Scalar};
use crate::rows::Cells;
use crate::scan::{Dialect, is_plain};
use crate::value::Fixed;
use rust_decimal::Decimal;
use std::ops::Range;

/// Of more texts, a closer look finds one sooner.
const MOST_TEXTS: usize = 32;

/// What a quick way says of a row.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Says {
    /// The condition holds.
    Yes,
    /// It does not.
    No,
    /// That cannot be told: a value is missing.
    Unknown,
    /// It is to be asked.
    Nothing,
}

impl Says {
    /// Both of two.
    fn and(self, other: Self) -> Self {
        match (self, other) {
            (Self::No, _) | (_, Self::No) => Self::No,
            (Self::Nothing, _) | (_, Self::Nothing) => Self::Nothing,
            (Self::Yes, Self::Yes) => Self::Yes,
            _ => Self::Unknown,
        }
    }

    /// At least one of two.
    fn or(self, other: Self) -> Self {
        self.not().and(other.not()).not()
    }

    fn not(self) -> Self {
        match self {
            Self::Yes => Self::No,
            Self::No => Self::Yes,
            other => other,
        }
    }

    fn of(truth: bool) -> Self {
        if truth { Self::Yes } else { Self::No }
    }
}

/// What is asked of a text.
#[derive(Debug)]
pub(super) enum Test {
    /// That it has a form.
    Like(Pattern),
    /// That it is one of these.
    Among(Vec<Box<[u8]>>),
}

impl Test {
    fn holds(&self, text: &[u8]) -> bool {
        match self {
            Self::Like(form) => form.fits(text),
            Self::Among(texts) => texts.iter().any(|one| **one == *text),
        }
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
    /// What is reckoned of numbers, lengths and days is compared; the columns they stand in.
    Terms { columns: Vec<usize>, order: Order, sides: Box<[Term; 2]> },
    /// A text is as it should be.
    Text { column: usize, test: Test },
    /// A cell is blank, which says this.
    Blank { column: usize, blank: Says },
    /// All of them hold.
    All(Vec<Quick>),
    /// One of them holds at least.
    Any(Vec<Quick>),
    /// It does not hold.
    Not(Box<Quick>),
}

impl Quick {
    /// The quick way of a condition, as far as there is one.
    pub(super) fn of(root: &Node, gate: &Compiled) -> Self {
        // What cells hold may not be what the record will have.
        if gate.fills_only() {
            return Self::Slow;
        }
        let program = |field: usize| {
            let column = gate.column_of(field).filter(|_| !gate.is_unchangeable(field))?;
            let seen = gate.columns.get(column)?;
            // Where a plan has words for blank, any cell may be one; and where something fills blank cells, none is.
            let is_plain = seen.guard.is_none() && seen.default.is_none() && gate.settings.existing.is_none();
            is_plain.then_some((column, &seen.program))
        };
        let found = match root {
            Node::Compare(order, left, right) => Self::compared(*order, (left, right), gate, &program),
            Node::In(inner, list, is_not) => {
                let texts: Option<Vec<&str>> = list.iter().map(text_of).collect();
                let among = texts.and_then(|texts| Self::among(inner, &texts, gate, &program));
                among.map(|among| among.unless(*is_not))
            }
            Node::Like(inner, form, is_not) => match &**inner {
                Node::Field(field) => program(*field)
                    .filter(|(_, program)| program.is_verbatim())
                    .map(|(column, _)| Self::Text { column, test: Test::Like(form.clone()) }.unless(*is_not)),
                _ => None,
            },
            Node::IsNull(inner, is_not) => match &**inner {
                Node::Field(field) => program(*field).map(|(column, _)| {
                    let blank = if gate.settings.mode.adds() { Says::Yes } else { Says::Unknown };
                    Self::Blank { column, blank }.unless(*is_not)
                }),
                _ => None,
            },
            _ => return Self::joined(root, gate),
        };
        found.unwrap_or(Self::Slow)
    }

    fn unless(self, is_not: bool) -> Self {
        if is_not { Self::Not(Box::new(self)) } else { self }
    }

    /// The quick way to compare.
    fn compared<'p>(
        order: Order,
        (left, right): (&Node, &Node),
        gate: &Compiled,
        program: &impl Fn(usize) -> Option<(usize, &'p Program)>,
    ) -> Option<Self> {
        match (left, right) {
            (field, Node::Value(Scalar::Text(text))) | (Node::Value(Scalar::Text(text)), field) => {
                let is_not = match order {
                    Order::Equal => false,
                    Order::Different => true,
                    _ => return None,
                };
                return Some(Self::among(field, &[text], gate, program)?.unless(is_not));
            }
            (Node::Field(one), Node::Field(other)) => {
                if let (Some((one, day)), Some((other, other_day))) = (program(*one), program(*other))
                    && day.is_iso_date()
                    && other_day.is_iso_date()
                {
                    return Some(Self::Days { columns: [one, other], order });
                }
            }
            (Node::Field(field), Node::Value(Scalar::Number(bound))) => {
                return Self::number(program(*field)?, order, *bound);
            }
            (Node::Value(Scalar::Number(bound)), Node::Field(field)) => {
                return Self::number(program(*field)?, order.turned(), *bound);
            }
            _ => {}
        }
        let (left, is_day) = Term::of(left, gate, program)?;
        let (right, is_other_day) = Term::of(right, gate, program)?;
        let mut columns = Vec::new();
        left.columns(&mut columns);
        right.columns(&mut columns);
        let sides = Box::new([left, right]);
        (is_day == is_other_day).then_some(Self::Terms { columns, order, sides })
    }

    /// Whether a field holds one of some texts, or codes.
    fn among<'p>(
        node: &Node,
        texts: &[&str],
        gate: &Compiled,
        program: &impl Fn(usize) -> Option<(usize, &'p Program)>,
    ) -> Option<Self> {
        let Node::Field(field) = node else { return None };
        match program(*field)? {
            (column, Program::Picklist(listed)) => {
                let picklist = gate.schema.picklists.get(listed.list)?;
                let is_meant = |value: usize| {
                    picklist.values.get(value).is_some_and(|value| texts.contains(&&*value.code))
                };
                let words = |wanted: bool| {
                    let words = picklist.exact_words().filter(|word| is_meant(word.1) == wanted);
                    WordSet::new(words.map(|word| word.0))
                };
                Some(Self::Code { column, meant: words(true), known: words(false) })
            }
            (column, program) if program.is_verbatim() && texts.len() <= MOST_TEXTS => {
                let texts = texts.iter().map(|text| text.as_bytes().into()).collect();
                Some(Self::Text { column, test: Test::Among(texts) })
            }
            _ => None,
        }
    }

    /// The quick way of a condition that is made of others.
    fn joined(root: &Node, gate: &Compiled) -> Self {
        let parts = |left, right| match (Self::of(left, gate), Self::of(right, gate)) {
            (Self::Slow, Self::Slow) => None,
            (left, right) => Some(vec![left, right]),
        };
        match root {
            Node::And(left, right) => parts(left, right).map_or(Self::Slow, Self::All),
            Node::Or(left, right) => parts(left, right).map_or(Self::Slow, Self::Any),
            Node::Not(inner) => match Self::of(inner, gate) {
                Self::Slow => Self::Slow,
                inner => Self::Not(Box::new(inner)),
            },
            _ => Self::Slow,
        }
    }

    fn number((column, program): (usize, &Program), order: Order, bound: Decimal) -> Option<Self> {
        let points = points(program)?;
        Some(Self::Number { column, order, bound: bound.into(), points })
    }

    /// What the bytes of cells say of each row of a block. Cells with a stop, by row and column (from 1), say nothing.
    pub(super) fn tell(
        &self,
        (block, dialect): (&Block, Dialect),
        cells: &Cells,
        stopped: &[(u32, u16)],
        says: &mut Vec<Says>,
    ) {
        let buffer = &block.buffer;
        says.clear();
        says.reserve(cells.len());
        match self {
            Self::Slow => says.resize(cells.len(), Says::Nothing),
            Self::Code { column, meant, known } => cells.each_in_column(*column, |_, start, end| {
                says.push(if start == end {
                    Says::Unknown
                } else if known.holds(buffer, start, end - start) {
                    Says::No
                } else if meant.holds(buffer, start, end - start) {
                    Says::Yes
                } else {
                    Says::Nothing
                });
            }),
            Self::Days { columns, order } => tell_days((block, cells), *columns, *order, says),
            Self::Number { column, order, bound, points } => {
                cells.each_in_column(*column, |_, start, end| {
                    let number = Fixed::plain(buffer.get(start..end).unwrap_or_default());
                    says.push(match number {
                        None if start == end => Says::Unknown,
                        Some(number) if *points || number.after() == 0 => {
                            Says::of(order.holds(number.cmp(bound)))
                        }
                        _ => Says::Nothing,
                    });
                })
            }
            Self::Terms { order, sides, .. } => tell_terms((block, cells, dialect), *order, sides, says),
            Self::Text { column, test } => tell_text((block, cells, dialect), (*column, test), says),
            Self::Blank { column, blank } => tell_blank((block, cells), (*column, *blank), says),
            Self::All(parts) | Self::Any(parts) => {
                let (all, join): (_, fn(Says, Says) -> Says) = match self {
                    Self::Any(_) => (Says::No, Says::or),
                    _ => (Says::Yes, Says::and),
                };
                says.resize(cells.len(), all);
                let mut of_part = Vec::new();
                for part in parts {
                    part.tell((block, dialect), cells, stopped, &mut of_part);
                    says.iter_mut().zip(&of_part).for_each(|(says, one)| *says = join(*says, *one));
                }
            }
            Self::Not(part) => {
                part.tell((block, dialect), cells, stopped, says);
                says.iter_mut().for_each(|says| *says = says.not());
            }
        }
        self.withdraw(cells, stopped, says);
    }

    /// Takes back what was said of cells with a stop, and of rows that take over what stands elsewhere.
    fn withdraw(&self, cells: &Cells, stopped: &[(u32, u16)], says: &mut [Says]) {
        let columns: &[usize] = match self {
            Self::Code { column, .. }
            | Self::Number { column, .. }
            | Self::Text { column, .. }
            | Self::Blank { column, .. } => &[*column],
            Self::Days { columns, .. } => columns,
            Self::Terms { columns, .. } => columns,
            Self::Slow | Self::All(_) | Self::Any(_) | Self::Not(_) => &[],
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

fn text_of(node: &Node) -> Option<&str> {
    if let Node::Value(Scalar::Text(text)) = node { Some(text) } else { None }
}

/// Compares what is reckoned for each row.
fn tell_terms(
    (block, cells, dialect): (&Block, &Cells, Dialect),
    order: Order,
    [left, right]: &[Term; 2],
    says: &mut Vec<Says>,
) {
    let read = |term: &Term, row| term.read(block, cells, row, dialect);
    says.extend((0..cells.len()).map(|row| match (read(left, row), read(right, row)) {
        (Read::Number(one), Read::Number(other)) => Says::of(order.holds(one.cmp(&other))),
        (Read::Nothing, _) | (_, Read::Nothing) => Says::Nothing,
        _ => Says::Unknown,
    }));
}

fn tell_text(
    (block, cells, dialect): (&Block, &Cells, Dialect),
    (column, test): (usize, &Test),
    says: &mut Vec<Says>,
) {
    cells.each_in_column(column, |_, start, end| {
        says.push(match block.buffer.get(start..end).unwrap_or_default() {
            [] => Says::Unknown,
            raw if is_plain(raw, dialect) => Says::of(test.holds(raw)),
            _ => Says::Nothing,
        });
    });
}

fn tell_blank((block, cells): (&Block, &Cells), (column, blank): (usize, Says), says: &mut Vec<Says>) {
    cells.each_in_column(column, |_, start, end| {
        says.push(match block.buffer.get(start..end).unwrap_or_default() {
            [] => blank,
            [first, ..] if first.is_ascii_alphanumeric() => Says::No,
            _ => Says::Nothing,
        });
    });
}

/// Compares one day of each row with another.
fn tell_days((block, cells): (&Block, &Cells), [one, other]: [usize; 2], order: Order, says: &mut Vec<Says>) {
    let ((one, stride), (other, _)) = (cells.column_bounds(one), cells.column_bounds(other));
    let range = |bounds: &[u32]| match bounds {
        [before, end, ..] => before.wrapping_add(1) as usize..*end as usize,
        _ => 0..0,
    };
    let day = |range: &Range<usize>| iso_day(&block.buffer, range.start, range.end);
    let pairs = one.chunks_exact(stride).zip(other.chunks_exact(stride));
    // Days in this form are in the order of their letters.
    says.extend(pairs.map(|(one, other)| {
        let (one, other) = (range(one), range(other));
        match (day(&one), day(&other)) {
            (Some(one), Some(other)) => Says::of(order.holds(one.cmp(&other))),
            _ if one.is_empty() || other.is_empty() => Says::Unknown,
            _ => Says::Nothing,
        }
    }));
}
