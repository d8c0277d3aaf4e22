//! How a column's cells are written, where nobody states it: the order of day and month, the mark before decimals. The
//! column decides, never the cell: a cell that fits one way only is a vote, and a way holds when it has votes, and at
//! least twenty for each against it.

use crate::value::Date;

/// The way in which a column is written.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(crate) enum Way {
    /// Day before month; or a point before decimals.
    First,
    /// Month before day; or a comma before decimals.
    Second,
    /// The column does not decide.
    #[default]
    Undecided,
}

/// What a cell says of the way.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Says {
    /// Nothing: both ways give the same, or neither gives anything.
    Nothing,
    First,
    Second,
    /// Both ways give something, and not the same.
    Open,
}

/// What a cell says, and in which form it is written: dates by separator and length of year, numbers by the mark of
/// those that are open.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Vote {
    pub(crate) form: u8,
    pub(crate) says: Says,
}

impl Vote {
    pub(crate) const NONE: Self = Self { form: 0, says: Says::Nothing };
}

/// So many written forms are told apart.
pub(crate) const FORMS: usize = 8;
/// Numbers that are open with a point, and with a comma.
pub(crate) const WITH_POINT: usize = 0;
pub(crate) const WITH_COMMA: usize = 1;

/// The votes of a column, by written form.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Votes {
    pub(crate) forms: [Poll; FORMS],
}

/// The votes of one written form.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(crate) struct Poll {
    /// Cells that fit the first way alone.
    pub(crate) first: u64,
    /// Cells that fit the second way alone.
    pub(crate) second: u64,
    /// Cells that both ways read, each otherwise.
    pub(crate) open: u64,
}

/// So many votes outweigh one against them.
const OUTWEIGH: u64 = 20;
/// One vote decides for at most so many cells whose mark stands as one between thousands does, and which it takes for
/// a decimal mark.
const AGAINST_THOUSANDS: u64 = 9;

impl Poll {
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

    pub(crate) const fn votes(self) -> u64 {
        self.first + self.second
    }

    /// How many cells it speaks of.
    pub(crate) const fn cells(self) -> u64 {
        self.votes() + self.open
    }
}

/// The order of day and month in each written form.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(crate) struct Orders {
    pub(crate) ways: [Way; FORMS],
    /// Forms without votes of their own, which go by the others.
    pub(crate) borrowed: [bool; FORMS],
}

impl Orders {
    pub(crate) fn of(&self, form: usize) -> Way {
        self.ways.get(form).copied().unwrap_or_default()
    }

    pub(crate) fn is_borrowed(&self, form: usize) -> bool {
        self.borrowed.get(form).copied().unwrap_or_default()
    }
}

impl Votes {
    pub(crate) fn add(&mut self, vote: Vote) {
        self.add_many(vote, 1);
    }

    pub(crate) fn add_many(&mut self, vote: Vote, count: u64) {
        let Some(poll) = self.forms.get_mut(usize::from(vote.form)) else { return };
        match vote.says {
            Says::Nothing => {}
            Says::First => poll.first += count,
            Says::Second => poll.second += count,
            Says::Open => poll.open += count,
        }
    }

    pub(crate) fn join(&mut self, other: Self) {
        for (sum, poll) in self.forms.iter_mut().zip(other.forms) {
            sum.first += poll.first;
            sum.second += poll.second;
            sum.open += poll.open;
        }
    }

    /// Whether the days of a column stand before the months, where its cells tell.
    pub(crate) fn day_first(&self) -> Option<bool> {
        match self.numbers().way() {
            Way::First => Some(true),
            Way::Second => Some(false),
            Way::Undecided => None,
        }
    }

    /// Cells of numbers that are open with this mark.
    pub(crate) fn open_with(&self, mark: usize) -> u64 {
        self.forms.get(mark).map_or(0, |poll| poll.open)
    }

    /// All votes of numbers.
    pub(crate) fn numbers(&self) -> Poll {
        let sum = |of: fn(&Poll) -> u64| self.forms.iter().map(of).sum();
        Poll { first: sum(|poll| poll.first), second: sum(|poll| poll.second), open: sum(|poll| poll.open) }
    }

    /// The mark before decimals.
    ///
    /// A mark that stands before exactly three digits may part thousands as well. Where a column holds points alone,
    /// they are decimal points; in all other columns the votes must bear the cells that are open.
    pub(crate) fn mark(&self) -> Way {
        let all = self.numbers();
        let (points, commas) = (self.open_with(WITH_POINT), self.open_with(WITH_COMMA));
        let bears = |votes: u64, decimals: u64, thousands: u64| {
            decimals <= AGAINST_THOUSANDS * votes && thousands <= OUTWEIGH * votes
        };
        match all.way() {
            Way::First if bears(all.first, if all.second > 0 { points } else { 0 }, commas) => Way::First,
            Way::Second if bears(all.second, commas, points) => Way::Second,
            Way::Undecided if all.votes() == 0 && commas == 0 => Way::First,
            _ => Way::Undecided,
        }
    }

    /// The order of day and month, form by form: a form without votes of its own goes by the others where all of them
    /// agree.
    pub(crate) fn orders(&self) -> Orders {
        let mut orders = Orders::default();
        let decided: Vec<Way> =
            self.forms.iter().filter(|poll| poll.votes() > 0).map(|poll| poll.way()).collect();
        let lent = decided.first().copied().filter(|way| decided.iter().all(|other| other == way));
        for ((way, borrowed), poll) in orders.ways.iter_mut().zip(&mut orders.borrowed).zip(self.forms) {
            if poll.votes() > 0 {
                *way = poll.way();
            } else if let Some(lent) = lent.filter(|lent| *lent != Way::Undecided) {
                (*way, *borrowed) = (lent, true);
            }
        }
        orders
    }

    /// Whether the orders are those of the votes, in all forms that have cells.
    pub(crate) fn bear_out(&self, orders: &Orders) -> bool {
        let found = self.orders();
        let mut cells = (0..).zip(self.forms).filter(|(_, poll)| poll.cells() > 0);
        cells.all(|(form, _)| {
            found.of(form) == orders.of(form) && found.is_borrowed(form) == orders.is_borrowed(form)
        })
    }
}

/// The separators by which the written forms of dates are told apart.
const SEPARATORS: [char; 4] = ['/', '.', '-', ' '];

/// The written form of a date in numbers: its separator, and whether its year has two digits.
pub(crate) fn date_form(text: &str) -> usize {
    let mark = text.chars().find(|c| !c.is_ascii_digit()).unwrap_or('/');
    let separator = SEPARATORS.iter().position(|known| *known == mark).unwrap_or(0);
    let has_long_year = text.split(|c: char| !c.is_ascii_digit()).any(|part| part.len() >= 4);
    separator + if has_long_year { 0 } else { SEPARATORS.len() }
}

/// A written form as people know it, day first or month first.
pub(crate) fn form_words(form: usize, way: Way) -> String {
    let mark = SEPARATORS.get(form % SEPARATORS.len()).copied().unwrap_or('/');
    let year = if form < SEPARATORS.len() { "yyyy" } else { "yy" };
    let [one, other] = if way == Way::Second { ["MM", "dd"] } else { ["dd", "MM"] };
    format!("{one}{mark}{other}{mark}{year}")
}

/// A day in numbers: the two readings of a text such as `3/4/2024`, day first and month first.
pub(crate) fn days(text: &str) -> Option<(Option<Date>, Option<Date>)> {
    let mark = text.chars().find(|c| !c.is_ascii_digit()).filter(|c| SEPARATORS.contains(c))?;
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

/// What two readings say; one alone has a vote only where nothing else stops it.
pub(crate) fn vote<T: PartialEq>(
    first: Option<&T>,
    second: Option<&T>,
    is_sound: impl Fn(&T) -> bool,
) -> Says {
    match (first, second) {
        (Some(first), Some(second)) if first == second => Says::Nothing,
        (Some(_), Some(_)) => Says::Open,
        (Some(first), None) if is_sound(first) => Says::First,
        (None, Some(second)) if is_sound(second) => Says::Second,
        _ => Says::Nothing,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn votes(first: u64, second: u64, open: [u64; 2]) -> Votes {
        let mut votes = Votes::default();
        votes.forms[0] = Poll { first, second, open: open[0] };
        votes.forms[1].open = open[1];
        votes
    }

    #[test]
    fn ways_hold_with_twenty_votes_for_each_against() {
        let way = |first, second, open| Poll { first, second, open }.way();
        assert_eq!(way(1, 0, 500), Way::First);
        assert_eq!(way(0, 3, 0), Way::Second);
        assert_eq!(way(40, 2, 0), Way::First);
        assert_eq!(way(39, 2, 0), Way::Undecided);
        assert_eq!(way(0, 0, 7), Way::Undecided);
    }

    /// Votes for point and comma; cells that are open with a point and with a comma; the mark.
    #[test]
    fn few_votes_decide_for_few_open_cells() {
        for (first, second, open, wanted) in [
            (0, 0, [7, 0], Way::First),
            (0, 0, [0, 7], Way::Undecided),
            (0, 0, [7, 7], Way::Undecided),
            (0, 1, [0, 499], Way::Undecided),
            (0, 1, [499, 0], Way::Undecided),
            (0, 1, [0, 9], Way::Second),
            (0, 1, [20, 0], Way::Second),
            (1, 0, [0, 20], Way::First),
            (1, 0, [0, 21], Way::Undecided),
            // Without a comma that could begin decimals, points do.
            (1, 0, [499, 0], Way::First),
            (20, 1, [499, 0], Way::Undecided),
            (20, 1, [100, 100], Way::First),
            (19, 1, [0, 0], Way::Undecided),
        ] {
            assert_eq!(votes(first, second, open).mark(), wanted, "{first} {second} {open:?}");
        }
    }

    #[test]
    fn forms_of_dates_decide_apart_and_lend_where_they_agree() {
        let poll = |first, second, open| Poll { first, second, open };
        let mut votes = Votes::default();
        votes.forms[0] = poll(0, 3, 1);
        votes.forms[1] = poll(0, 0, 5);
        let orders = votes.orders();
        assert_eq!((orders.of(0), orders.of(1)), (Way::Second, Way::Second));
        assert!(!orders.is_borrowed(0) && orders.is_borrowed(1));
        votes.forms[2] = poll(4, 0, 0);
        let orders = votes.orders();
        assert_eq!((orders.of(0), orders.of(1), orders.of(2)), (Way::Second, Way::Undecided, Way::First));
        for (text, wanted) in [("3/4/2024", 0), ("3.4.24", 5), ("2024-05-06", 2), ("1 2 2024", 3)] {
            assert_eq!(date_form(text), wanted, "{text}");
        }
    }

    #[test]
    fn days_and_numbers_have_up_to_two_readings() {
        let both = |text: &str| days(text).map(|(day, month)| vote(day.as_ref(), month.as_ref(), |_| true));
        for (text, wanted) in [
            ("3/4/2024", Some(Says::Open)),
            ("4.4.2024", Some(Says::Nothing)),
            ("13-04-2024", Some(Says::First)),
            ("04 13 2024", Some(Says::Second)),
            ("31/06/2024", Some(Says::Nothing)),
            ("2024-04-03", None),
            ("3/4/24", None),
            ("3/4.2024", None),
            ("3/4/2024/1", None),
        ] {
            assert_eq!(both(text), wanted, "{text}");
        }
    }
}
