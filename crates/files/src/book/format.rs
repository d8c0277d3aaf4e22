//! Number formats (ECMA-376 part 1, 18.8.30 and 18.8.31): what a stored number is shown as.

/// What a format makes of a number.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(super) enum Format {
    /// A number.
    #[default]
    Number,
    /// A whole number with at least so many digits.
    Digits(usize),
    /// A percentage: a hundred times the number.
    Percent,
    /// A day, with or without a time of day.
    Date { time: bool },
    /// A time of day.
    Time,
    /// Hours, minutes and seconds that went by.
    Duration,
}

/// A spreadsheet keeps no format of more letters.
const WIDEST: usize = 255;

impl Format {
    /// The format of a built-in number.
    pub(super) fn built_in(id: u32) -> Option<Self> {
        Some(match id {
            9 | 10 => Self::Percent,
            0..=13 | 37..=44 | 48 | 49 => Self::Number,
            14..=17 | 27..=31 | 34..=36 | 50..=58 => Self::Date { time: false },
            18..=21 | 32 | 33 | 45 | 47 => Self::Time,
            22 => Self::Date { time: true },
            46 => Self::Duration,
            _ => return None,
        })
    }

    /// The format that a code describes.
    pub(super) fn of(code: &str) -> Self {
        let (mut letters, mut duration) = (String::new(), false);
        let mut chars = code.chars();
        while let Some(c) = chars.next() {
            match c {
                // The first section alone tells.
                ';' => break,
                '"' => drop(chars.by_ref().find(|&c| c == '"')),
                '\\' | '_' | '*' => drop(chars.next()),
                '[' => {
                    let inner: String = chars.by_ref().take_while(|&c| c != ']').collect();
                    let inner = inner.to_lowercase();
                    duration |= !inner.is_empty() && inner.chars().all(|c| "hms".contains(c));
                }
                c => letters.extend(c.to_lowercase()),
            }
        }
        if duration {
            return Self::Duration;
        }
        if letters.contains("general") {
            return Self::Number;
        }
        let has = |c: char| letters.contains(c);
        let time = has('h') || has('s');
        if has('y') || has('d') || has('m') && !time {
            return Self::Date { time };
        }
        if time {
            return Self::Time;
        }
        if has('%') {
            return Self::Percent;
        }
        let zeros = letters.chars().all(|c| c == '0');
        if zeros && letters.len() > 1 { Self::Digits(letters.len().min(WIDEST)) } else { Self::Number }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn codes_say_what_a_number_is_shown_as() {
        for (code, wanted) in [
            ("General", Format::Number),
            ("0.00", Format::Number),
            ("#,##0.00 [$€-407]", Format::Number),
            ("0.0%", Format::Percent),
            ("0 \"%\"", Format::Number),
            ("0.00E+00", Format::Number),
            ("\"day\" 0", Format::Number),
            ("[Red]0;[Blue]-0", Format::Number),
            ("0000000", Format::Digits(7)),
            ("yyyy-mm-dd", Format::Date { time: false }),
            ("[$-809]d mmmm yyyy;@", Format::Date { time: false }),
            ("mmm", Format::Date { time: false }),
            ("dd/mm/yyyy hh:mm", Format::Date { time: true }),
            ("hh:mm:ss", Format::Time),
            ("[h]:mm", Format::Duration),
        ] {
            assert_eq!(Format::of(code), wanted, "{code}");
        }
        assert_eq!(Format::built_in(14), Some(Format::Date { time: false }));
        assert_eq!(Format::built_in(164), None);
    }
}
