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
    ///
    /// ```
    /// use tidy_gate_core::value::Date;
    /// assert_eq!(Date::iso("2026-11-29"), Date::new(2026, 11, 29));
    /// assert_eq!(Date::iso("2026-02-30"), None);
    /// ```
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

    /// How many days it lies after the first day of the year 1.
    #[must_use]
    pub fn number(self) -> i64 {
        let years = i64::from(self.year) - 1;
        let before: i64 = (1..self.month).map(|month| i64::from(days_in_month(self.year, month))).sum();
        years * 365 + years / 4 - years / 100 + years / 400 + before + i64::from(self.day) - 1
    }

    /// The day so many days after the first one of the year 1.
    #[must_use]
    pub fn from_number(number: i64) -> Option<Self> {
        if !(0..3_652_059).contains(&number) {
            return None;
        }
        // Close to it, and then to the day.
        let mut year = u16::try_from(number * 400 / 146_097 + 1).ok()?.min(9999);
        while year > 1 && Self::new(year, 1, 1)?.number() > number {
            year -= 1;
        }
        while year < 9999 && Self::new(year + 1, 1, 1)?.number() <= number {
            year += 1;
        }
        let mut rest = number - Self::new(year, 1, 1)?.number();
        let mut month = 1;
        while rest >= i64::from(days_in_month(year, month)) && month < 12 {
            rest -= i64::from(days_in_month(year, month));
            month += 1;
        }
        Self::new(year, month, u8::try_from(rest + 1).ok()?)
    }

    /// Year, month and day as one number that orders as the days do.
    #[must_use]
    pub const fn packed(self) -> u32 {
        (self.year as u32) << 9 | (self.month as u32) << 5 | self.day as u32
    }
}

impl Date {
    /// The day of the week, Monday being 0 (ISO 8601 counts it as 1).
    #[must_use]
    pub fn weekday(self) -> u8 {
        // Years begin in March, so that the leap day is the last of one.
        let month = (u32::from(self.month) + 9) % 12;
        let year = u32::from(self.year) + 400 - u32::from(month >= 10);
        let days =
            year * 365 + year / 4 - year / 100 + year / 400 + (month * 306 + 5) / 10 + u32::from(self.day);
        u8::try_from((days + 1) % 7).unwrap_or_default()
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
