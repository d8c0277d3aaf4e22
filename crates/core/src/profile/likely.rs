//! What kind the cells of a column have, most likely: the one judgement of those who look and those who draft.

use super::kind::{Class, Mark};

/// From so many in a hundred cells on a kind is likely.
const LIKELY: u64 = 80;
/// From so many in a hundred cells that begin with a zero on, digits are codes.
const CODED: u64 = 5;

/// From so many in a hundred cells more on, a wider kind of number is taken.
const WIDER: u64 = 5;

/// From so many characters on digits in groups that are all of one length are codes, where there are so many of them.
const THREE_GROUPS: usize = 11;
const ENOUGH: u64 = 10;

/// The kind that most cells have, with the classes of cells that belong to it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Likely {
    /// As a record schema names it; "text" where digits are codes.
    pub(crate) kind: &'static str,
    /// How its numbers are written.
    pub(crate) form: Option<&'static str>,
    pub(crate) classes: Vec<Class>,
    /// How many cells belong to it.
    pub(crate) fitting: u64,
    /// Whether enough of them do.
    pub(crate) is_likely: bool,
}

impl Likely {
    /// The class of whole numbers whose thousands are parted by what parts groups of any digits.
    pub(crate) const IN_GROUPS: Class = Class::Thousands(Mark::Other, true);

    /// Among so many cells of each class, from the least to the most characters long; `in_groups` are the lowest and the
    /// highest of the class [`Self::IN_GROUPS`]. Nothing where no cell has a kind of its own.
    pub(crate) fn among(
        counts: &[(Class, u64)],
        lengths: Option<(u64, u64)>,
        in_groups: Option<(&str, &str)>,
    ) -> Option<Self> {
        let of_one_length = lengths.is_some_and(|lengths| lengths.0 == lengths.1);
        let counted = Counted { counts, filled: counts.iter().map(|count| count.1).sum() };
        let zeros = counted.sum(&|class| class == Class::Code);
        let digits = zeros + counted.sum(&|class| class == Class::Integer);
        let is_coded = of_one_length || zeros * 100 >= counted.filled * CODED;
        if zeros > 0 && counted.is_enough(digits) && is_coded {
            return Some(counted.found("text", Some("digits with leading zeros"), &|_| true));
        }
        // Quantities of three groups and more are not all of one length: codes and telephone numbers are.
        let grouped = counted.sum(&|class| class == Self::IN_GROUPS);
        if in_groups.is_some_and(|(low, high)| low.len() == high.len() && low.chars().count() >= THREE_GROUPS)
            && grouped >= ENOUGH
            && counted.is_enough(grouped)
        {
            return Some(counted.found("text", Some("digits in groups, of one length"), &|_| true));
        }
        let mut best = counted.best_number();
        let others: [(_, &dyn Fn(Class) -> bool); 8] = [
            ("date", &|class| matches!(class, Class::Date(_))),
            ("datetime", &|class| matches!(class, Class::Date(_) | Class::Datetime(_))),
            ("time", &|class| matches!(class, Class::Time | Class::FormedTime)),
            ("boolean", &|class| class == Class::Boolean),
            ("email", &|class| class == Class::Email),
            ("phone", &|class| class == Class::Phone),
            ("url", &|class| class == Class::Url),
            ("uuid", &|class| class == Class::Uuid),
        ];
        for (kind, is_meant) in others {
            if best.as_ref().is_none_or(|best| !best.is_likely && counted.sum(is_meant) > best.fitting) {
                best = Some(counted.found(kind, None, is_meant));
            }
        }
        best.filter(|best| best.fitting > 0)
    }
}

/// The cells of a column by class.
struct Counted<'a> {
    counts: &'a [(Class, u64)],
    filled: u64,
}

impl Counted<'_> {
    fn sum(&self, is_meant: &dyn Fn(Class) -> bool) -> u64 {
        self.counts.iter().filter(|count| is_meant(count.0)).map(|count| count.1).sum()
    }

    fn is_enough(&self, count: u64) -> bool {
        count * 100 >= self.filled * LIKELY
    }

    fn found(
        &self,
        kind: &'static str,
        form: Option<&'static str>,
        is_meant: &dyn Fn(Class) -> bool,
    ) -> Likely {
        let fitting = self.sum(is_meant);
        let classes = self.counts.iter().map(|count| count.0).filter(|class| is_meant(*class)).collect();
        Likely { kind, form, classes, fitting, is_likely: self.is_enough(fitting) }
    }

    /// The kind of number that takes the most cells; the narrowest, where a wider one takes but a few more: these are
    /// named as misfits.
    fn best_number(&self) -> Option<Likely> {
        use Mark::{Comma, Other, Point, Unsure};
        let has = |is_meant: fn(&Class) -> bool| self.counts.iter().any(|count| is_meant(&count.0));
        let has_points = has(|class| matches!(class, Class::Thousands(Point, _)));
        let thousands = has(|class| matches!(class, Class::Thousands(..)));
        let is_whole = |class| {
            class == Class::Integer || matches!(class, Class::Thousands(Comma | Other | Unsure, true))
        };
        let is_whole_by_point =
            |class| class == Class::Integer || matches!(class, Class::Thousands(Point | Other, true));
        let is_decimal = |class| {
            is_whole(class) || class == Class::Decimal || matches!(class, Class::Thousands(Comma | Other, _))
        };
        let is_by_comma = |class| {
            let is_plain = matches!(
                class,
                Class::Integer | Class::CommaDecimal | Class::Thousands(Point | Other | Unsure, _)
            );
            is_plain || has_points && class == Class::Decimal
        };
        let marks = thousands.then_some("thousands marks");
        let commas = if thousands { "decimal comma, thousands marks" } else { "decimal comma" };
        let numbers: [(_, _, &dyn Fn(Class) -> bool); 4] = [
            ("integer", marks, &is_whole),
            ("integer", marks, &is_whole_by_point),
            ("decimal", marks, &is_decimal),
            ("decimal", Some(commas), &is_by_comma),
        ];
        let mut best: Option<Likely> = None;
        for (kind, form, is_meant) in numbers {
            let is_better = |best: &Likely| {
                let count = self.sum(is_meant);
                let is_wider = count * 100 >= best.fitting * 100 + self.filled * WIDER;
                is_wider || !best.is_likely && self.is_enough(count)
            };
            if best.as_ref().is_none_or(is_better) {
                best = Some(self.found(kind, form, is_meant));
            }
        }
        best
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::profile::kind::Kinds;
    use crate::value::Date;

    /// Cells, the kind that most have, and whether enough have it.
    #[test]
    fn the_kind_that_takes_the_most_cells_wins() {
        let kinds = Kinds::new(Date::new(2026, 11, 25).unwrap());
        for (cells, kind, is_likely) in [
            (&["1", "2", "3", "4", "5", "6", "7", "8", "9", "12.5"][..], "decimal", true),
            (&["1", "2", "3", "4", "x"], "integer", true),
            (&["1", "2", "3", "x", "y"], "integer", false),
            (&["0012345", "1234567", "7654321"], "text", true),
            (&["007", "12", "0815"], "text", true),
            (&["950", "1,200", "12,500"], "integer", true),
            (&["950", "1,200", "12,500.75"], "decimal", true),
            (&["1,234", "3,5", "7"], "decimal", true),
            (&["1.234.567", "12.345", "7"], "decimal", true),
            (&["1.234.567", "2.345.678"], "integer", true),
            (&["1.234,50", "7,5"], "decimal", true),
            (&["1 234", "12\u{A0}345", "7"], "integer", true),
            (&["1\u{2019}234.50", "12'345"], "decimal", true),
            (&["31.12.2024", "01.02.2024", "soon"], "date", false),
            (&["2024-01-02", "2024-01-02 10:00"], "datetime", true),
            (&["+44 20 7946 0018", "(020) 7946 0018", "020-7946-0018"], "phone", true),
            (&["+48 798 591 325", "+48 601 222 333"], "phone", true),
            (&["610 343 522"; 12], "text", true),
            (&["343 522"; 12], "integer", true),
            (&["9:30 PM", "12:05 a.m.", "11:00pm"], "time", true),
            (&["1/2/2024 9:30 PM", "12/31/2024 12:00 AM"], "datetime", true),
            (&["a@b.example"], "email", true),
        ] {
            let mut counts: Vec<(Class, u64)> = Vec::new();
            for cell in cells {
                let class = kinds.class(cell).0;
                match counts.iter_mut().find(|count| count.0 == class) {
                    Some(count) => count.1 += 1,
                    None => counts.push((class, 1)),
                }
            }
            let lengths = || cells.iter().map(|cell| cell.chars().count() as u64);
            let found = Likely::among(
                &counts,
                lengths().min().zip(lengths().max()),
                cells.iter().min().copied().zip(cells.iter().max().copied()),
            )
            .unwrap();
            assert_eq!((found.kind, found.is_likely), (kind, is_likely), "{cells:?}: {counts:?}");
        }
        assert_eq!(Likely::among(&[(Class::Text, 4)], None, None), None);
        for text in ["13:30 PM", "0:05 am", "9:30 p"] {
            assert_eq!(kinds.class(text).0, Class::Text, "{text}");
        }
    }
}
