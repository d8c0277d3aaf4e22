//! How a column's cells are written, where nobody states it: the order of day and month, the mark before decimals. The
//! column decides, never the cell: a cell that fits one way only is a vote, and a way holds when it has votes, and at
//! least twenty for each against it.

use crate::schema::Range;
use crate::value::{Date, Group, Marks, Number};

/// The way in which a column is written.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Way {
    /// Day before month; or a point before decimals.
    First,
    /// Month before day; or a comma before decimals.
    Second,
    /// The column does not decide.
    Undecided,
}

/// What a cell says of the way.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Vote {
    /// Nothing: both ways give the same.
    None,
    First,
    Second,
    /// Both ways give something, and not the same.
    Open,
}

/// The votes of a column.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Votes {
    /// Cells that fit the first way alone.
    pub first: u64,
    /// Cells that fit the second way alone.
    pub second: u64,
    /// Cells that both ways read, each otherwise.
    pub open: u64,
}

/// So many votes outweigh one against them.
const OUTWEIGH: u64 = 20;

impl Votes {
    pub(crate) fn add(&mut self, vote: Vote) {
        match vote {
            Vote::None => {}
            Vote::First => self.first += 1,
            Vote::Second => self.second += 1,
            Vote::Open => self.open += 1,
        }
    }

    pub(crate) fn join(&mut self, other: Self) {
        self.first += other.first;
        self.second += other.second;
        self.open += other.open;
    }

    /// The way that holds.
    pub(crate) fn way(self) -> Way {
        if self.first > 0 && self.first >= OUTWEIGH * self.second {
            Way::First
        } else if self.second > 0 && self.second >= OUTWEIGH * self.first {
            Way::Second
        } else {
            Way::Undecided
        }
    }
}

/// A day in numbers: the two readings of a text such as `3/4/2024`, day first and month first.
pub(crate) fn days(text: &str) -> Option<(Option<Date>, Option<Date>)> {
    let mark = text.chars().find(|c| !c.is_ascii_digit()).filter(|c| matches!(c, '/' | '.' | '-' | ' '))?;
    let mut parts = text.split(mark);
    let mut number = |fits: fn(usize) -> bool| {
        let part = parts.next()?;
        (fits(part.len()) && part.bytes().all(|b| b.is_ascii_digit())).then(|| part.parse::<u16>().ok())?
    };
    let (one, other) = (number(|n| (1..=2).contains(&n))?, number(|n| (1..=2).contains(&n))?);
    let year = number(|n| n == 4)?;
    if parts.next().is_some() {
        return None;
    }
    let (one, other) = (u8::try_from(one).ok()?, u8::try_from(other).ok()?);
    Some((Date::new(year, other, one), Date::new(year, one, other)))
}

/// What two readings say.
pub(crate) fn vote<T: PartialEq>(first: Option<&T>, second: Option<&T>) -> Vote {
    match (first, second) {
        (None, None) => Vote::None,
        (Some(_), None) => Vote::First,
        (None, Some(_)) => Vote::Second,
        (Some(first), Some(second)) if first == second => Vote::None,
        (Some(_), Some(_)) => Vote::Open,
    }
}

/// The marks of the two ways of writing numbers.
pub(crate) const POINT: Marks = Marks { decimal: '.', group: Group::Mark(',') };
pub(crate) const COMMA: Marks = Marks { decimal: ',', group: Group::Mark('.') };

/// The two readings of a number that holds a mark: with a point and with a comma before its decimals. What the digits
/// and the range of the field exclude is no reading, unless both are.
pub(crate) fn numbers(
    text: &str,
    digits: (Option<usize>, Option<usize>),
    range: &Range<Number<'static>>,
) -> (Option<Number<'static>>, Option<Number<'static>>) {
    let read = |marks: Marks| {
        let plain = marks.plain(text)?;
        Number::decimal(&plain).map(Number::into_owned)
    };
    let (point, comma) = (read(POINT), read(COMMA));
    let fits = |number: &Number<'static>| {
        let (before, after) = number.digits();
        digits.0.is_none_or(|most| before <= most)
            && digits.1.is_none_or(|most| after <= most)
            && range.holds(number)
    };
    match (point, comma) {
        (Some(point), Some(comma)) if point != comma => match (fits(&point), fits(&comma)) {
            (true, false) => (Some(point), None),
            (false, true) => (None, Some(comma)),
            _ => (Some(point), Some(comma)),
        },
        both => both,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn ways_hold_with_twenty_votes_for_each_against() {
        let way = |first, second, open| Votes { first, second, open }.way();
        assert_eq!(way(1, 0, 500), Way::First);
        assert_eq!(way(0, 3, 0), Way::Second);
        assert_eq!(way(40, 2, 0), Way::First);
        assert_eq!(way(39, 2, 0), Way::Undecided);
        assert_eq!(way(0, 0, 7), Way::Undecided);
    }

    #[test]
    fn days_and_numbers_have_up_to_two_readings() {
        let both = |text: &str| days(text).map(|(day, month)| vote(day.as_ref(), month.as_ref()));
        for (text, wanted) in [
            ("3/4/2024", Some(Vote::Open)),
            ("4.4.2024", Some(Vote::None)),
            ("13-04-2024", Some(Vote::First)),
            ("04 13 2024", Some(Vote::Second)),
            ("31/06/2024", Some(Vote::None)),
            ("2024-04-03", None),
            ("3/4/24", None),
            ("3/4.2024", None),
            ("3/4/2024/1", None),
        ] {
            assert_eq!(both(text), wanted, "{text}");
        }
        let open = Range::default();
        let votes = |text: &str| {
            let (point, comma) = numbers(text, (None, Some(2)), &open);
            vote(point.as_ref(), comma.as_ref())
        };
        for (text, wanted) in [
            ("12,5", Vote::Second),
            ("12.5", Vote::First),
            ("1.234,5", Vote::Second),
            ("1,234.5", Vote::First),
            // Three decimals are excluded, so that it is a thousand.
            ("1,234", Vote::First),
            ("1.234", Vote::Second),
            ("1,234,567", Vote::First),
        ] {
            assert_eq!(votes(text), wanted, "{text}");
        }
        let (point, comma) = numbers("1,234", (None, None), &open);
        assert_eq!(vote(point.as_ref(), comma.as_ref()), Vote::Open);
    }
}
