//! Days of the proleptic Gregorian calendar (ISO 8601).

/// A day that exists, in the years 1 to 9999.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Date {
    year: u16,
    month: u8,
    day: u8,
}

impl Date {
    /// The day, if there is one.
    #[must_use]
    pub const fn new(year: u16, month: u8, day: u8) -> Option<Self> {
        if year < 1 || year > 9999 || day < 1 || day > days_in_month(year, month) {
            return None;
        }
        Some(Self { year, month, day })
    }

    /// The year.
    #[must_use]
    pub const fn year(self) -> u16 {
        self.year
    }

    /// The month, from 1.
    #[must_use]
    pub const fn month(self) -> u8 {
        self.month
    }

    /// The day of the month, from 1.
    #[must_use]
    pub const fn day(self) -> u8 {
        self.day
    }

    /// Reads `yyyy-MM-dd`, digit for digit.
    #[must_use]
    pub fn iso(text: &str) -> Option<Self> {
        let [y1, y2, y3, y4, b'-', m1, m2, b'-', d1, d2] = text.as_bytes() else { return None };
        let digits = |digits: &[u8]| {
            digits.iter().try_fold(0_u16, |value, digit| {
                digit.is_ascii_digit().then(|| value * 10 + u16::from(digit - b'0'))
            })
        };
        let year = digits(&[*y1, *y2, *y3, *y4])?;
        let (month, day) = (digits(&[*m1, *m2])?, digits(&[*d1, *d2])?);
        Self::new(year, u8::try_from(month).ok()?, u8::try_from(day).ok()?)
    }

    /// Year, month and day as one number that orders as the days do.
    #[must_use]
    pub const fn packed(self) -> u32 {
        (self.year as u32) << 9 | (self.month as u32) << 5 | self.day as u32
    }
}

/// The days of a month; 0 when there is no such month.
#[must_use]
pub const fn days_in_month(year: u16, month: u8) -> u8 {
    match month {
        1 | 3 | 5 | 7 | 8 | 10 | 12 => 31,
        4 | 6 | 9 | 11 => 30,
        2 if year.is_multiple_of(4) && (!year.is_multiple_of(100) || year.is_multiple_of(400)) => 29,
        2 => 28,
        _ => 0,
    }
}

impl std::fmt::Display for Date {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{:04}-{:02}-{:02}", self.year, self.month, self.day)
    }
}
