//! Numbers that are summed and compared: whole numbers of their last digit, beside [`Number`], which keeps any length.

use super::number::Number;
use rust_decimal::Decimal;
use std::cmp::Ordering;

/// A number as a whole number of its last digit, and how many digits stand behind the point.
#[derive(Debug, Clone, Copy, Default)]
pub struct Fixed {
    digits: i128,
    after: u32,
}

impl Fixed {
    /// Nought.
    pub const ZERO: Self = Self { digits: 0, after: 0 };

    /// So many digits are read quickly; any two such numbers can be compared.
    const MOST: usize = 18;

    /// A cell of digits alone, with a minus before them and a point among them at most; nothing where a closer look
    /// is needed.
    ///
    /// ```
    /// use tidy_gate_core::value::Fixed;
    /// assert_eq!(Fixed::plain(b"-12.50"), Fixed::plain(b"-12.5"));
    /// assert!(Fixed::plain(b"12,5").is_none());
    /// ```
    #[inline]
    #[must_use]
    pub fn plain(raw: &[u8]) -> Option<Self> {
        let (is_negative, raw) = raw.strip_prefix(b"-").map_or((false, raw), |raw| (true, raw));
        let (mut digits, mut behind) = (0_i64, None);
        if raw.len() > Self::MOST || !raw.first()?.is_ascii_digit() || !raw.last()?.is_ascii_digit() {
            return None;
        }
        for byte in raw {
            match byte {
                b'0'..=b'9' => {
                    digits = digits * 10 + i64::from(byte - b'0');
                    behind = behind.map(|behind| behind + 1);
                }
                b'.' if behind.is_none() => behind = Some(0),
                _ => return None,
            }
        }
        let digits = i128::from(if is_negative { -digits } else { digits });
        Some(Self { digits, after: behind.unwrap_or(0) })
    }

    /// The same number; nothing where it has more digits than can be held.
    #[must_use]
    pub fn of(number: &Number<'_>) -> Option<Self> {
        let after = u32::try_from(number.digits().1).ok()?;
        Some(Self { digits: number.to_string().replace('.', "").parse().ok()?, after })
    }

    /// The whole number of the last digit.
    #[must_use]
    pub fn digits(self) -> i128 {
        self.digits
    }

    /// How many digits stand behind the point.
    #[must_use]
    pub fn after(self) -> u32 {
        self.after
    }

    /// The same with at least so many digits behind the point.
    fn grown(self, after: u32) -> Option<Self> {
        let more = after.saturating_sub(self.after);
        if self.digits == 0 {
            return Some(Self { digits: 0, after: self.after + more });
        }
        let digits = self.digits.checked_mul(10_i128.checked_pow(more)?)?;
        Some(Self { digits, after: self.after + more })
    }

    /// A whole number.
    #[must_use]
    pub fn whole(number: i64) -> Self {
        Self { digits: number.into(), after: 0 }
    }

    /// The same below nought, or above it.
    #[must_use]
    pub fn negated(self) -> Self {
        Self { digits: -self.digits, ..self }
    }

    /// The exact product; nothing where it is beyond all bounds.
    #[must_use]
    pub fn checked_mul(self, other: Self) -> Option<Self> {
        Some(Self { digits: self.digits.checked_mul(other.digits)?, after: self.after + other.after })
    }

    /// Whether it has so few digits that any other way to write them down holds them, too.
    #[must_use]
    pub fn is_short(self) -> bool {
        self.digits.unsigned_abs() < 10_u128.pow(27) && self.after < 27
    }

    /// The exact sum; nothing where it is beyond all bounds.
    #[must_use]
    pub fn checked_add(self, other: Self) -> Option<Self> {
        let (one, other) = (self.grown(other.after)?, other.grown(self.after)?);
        Some(Self { digits: one.digits.checked_add(other.digits)?, after: one.after })
    }

    /// Its magnitude as whole numbers of 10^-`after`, rounded down and up; the largest there is where it is larger.
    #[must_use]
    pub fn magnitude(self, after: u32) -> (u64, u64) {
        let digits = self.digits.unsigned_abs();
        let clipped = |digits: u128| u64::try_from(digits).unwrap_or(u64::MAX);
        if after >= self.after {
            let grown = 10_u128.checked_pow(after - self.after).and_then(|tens| digits.checked_mul(tens));
            let grown = grown.map_or(u64::MAX, clipped);
            return (grown, grown);
        }
        let tens = 10_u128.checked_pow(self.after - after).unwrap_or(u128::MAX);
        (clipped(digits / tens), clipped(digits.div_ceil(tens)))
    }

    /// Whether it is below nought.
    #[must_use]
    pub fn is_negative(self) -> bool {
        self.digits < 0
    }
}

/// A decimal of a condition has at most 28 digits, which can be held.
impl From<Decimal> for Fixed {
    fn from(number: Decimal) -> Self {
        Self { digits: number.mantissa(), after: number.scale() }
    }
}

impl Ord for Fixed {
    #[inline]
    fn cmp(&self, other: &Self) -> Ordering {
        if self.after == other.after {
            return self.digits.cmp(&other.digits);
        }
        let (one, two) = (self.grown(other.after), other.grown(self.after));
        match (one, two) {
            (Some(one), Some(two)) => one.digits.cmp(&two.digits),
            // One of them is too large to be written with the other's digits: the larger magnitude.
            (None, _) => self.digits.cmp(&0),
            (_, None) => 0.cmp(&other.digits),
        }
    }
}

impl PartialOrd for Fixed {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl PartialEq for Fixed {
    fn eq(&self, other: &Self) -> bool {
        self.cmp(other) == Ordering::Equal
    }
}

impl Eq for Fixed {}

/// As people write it: no zeros that carry nothing, a digit before the point.
impl std::fmt::Display for Fixed {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let (sign, digits) = (if self.digits < 0 { "-" } else { "" }, self.digits.unsigned_abs().to_string());
        let after = self.after as usize;
        let digits = format!("{digits:0>width$}", width = after + 1);
        let (whole, part) = digits.split_at_checked(digits.len() - after).unwrap_or((&digits, ""));
        let part = part.trim_end_matches('0');
        write!(f, "{sign}{whole}{}{part}", if part.is_empty() { "" } else { "." })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn sums_are_exact_and_end_at_the_bounds() {
        let of = |text: &str| Fixed::of(&Number::decimal(text).unwrap());
        let sum = ["1.25", "-0.5", "1000", "(2)", "0.3333333333"]
            .iter()
            .try_fold(Fixed::ZERO, |sum, text| sum.checked_add(of(text)?))
            .unwrap();
        assert_eq!(sum.to_string(), "999.0833333333");
        assert_eq!(of(&"9".repeat(60)), None);
        let most = of(&"9".repeat(38)).unwrap();
        assert!(most.checked_add(most).is_none() && most > of("0.5").unwrap());
        assert!(of(&format!("-{}", "9".repeat(38))).unwrap() < of("-0.5").unwrap());
    }

    proptest! {
        /// What is read quickly, ordered, summed and written is what the numbers of any length give.
        #[test]
        fn the_quick_number_is_the_plain_one(
            one in "-?[0-9]{1,9}(\\.[0-9]{0,6})?|[-+.,0-9]{0,6}",
            other in "-?[0-9]{1,11}(\\.[0-9]{1,6})?",
            after in 0_u32..9,
        ) {
            if let Some(quick) = Fixed::plain(one.as_bytes()) {
                let plain = Number::decimal(&one).unwrap();
                let (other, beside) = (Number::decimal(&other).unwrap(), Fixed::plain(other.as_bytes()).unwrap());
                prop_assert_eq!(quick.to_string(), plain.to_string());
                prop_assert_eq!(Some(quick), Fixed::of(&plain));
                prop_assert_eq!(quick.cmp(&beside), plain.cmp(&other));
                let back = quick.checked_add(beside).and_then(|sum| sum.checked_add(Fixed { digits: -beside.digits, ..beside }));
                prop_assert_eq!(back, Some(quick));
                let (down, up) = quick.magnitude(after);
                let magnitude = Fixed { digits: quick.digits.abs(), ..quick };
                let part = |digits: u64| Fixed { digits: digits.into(), after };
                prop_assert!(part(down) <= magnitude && magnitude <= part(up) && up - down <= 1);
            }
        }
    }
}
