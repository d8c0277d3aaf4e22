//! The words of a finding: what was found, what was expected, what would fit. Words a steward reads; the
//! message never holds the value, and nothing of a masked value is given away.

use super::dates::DateVerdict;
use super::evidence::{self, Way};
use super::program::{Program, cased, other_separator, with_zeros};
use super::writing::{Cell, words as writing_words};
use crate::catalogue::{Code, Level, entry};
use crate::schema::{Field, Range, TextRules};
use crate::value::{EmailFault, Length, LengthUnit, Picklist, email, serial};

/// The words of a finding at a cell.
#[derive(Debug, Default)]
pub(super) struct Words {
    pub(super) message: String,
    pub(super) expected: Option<String>,
    pub(super) suggestion: Option<String>,
}

/// How many of something.
pub(super) fn counted(count: u64, one: &str, several: &str) -> String {
    format!("{} {}", grouped(count), if count == 1 { one } else { several })
}

/// A whole number with commas between its thousands.
#[must_use]
pub fn grouped(number: u64) -> String {
    group_digits(&number.to_string())
}

/// A plain decimal with commas between the thousands before its point.
fn group_digits(number: &str) -> String {
    let (sign, digits) = number.strip_prefix('-').map_or(("", number), |rest| ("-", rest));
    let (whole, part) = digits.split_once('.').map_or((digits, None), |(whole, part)| (whole, Some(part)));
    let mut grouped = String::new();
    for (i, digit) in whole.chars().enumerate() {
        if i > 0 && (whole.len() - i).is_multiple_of(3) {
            grouped.push(',');
        }
        grouped.push(digit);
    }
    let part = part.map(|part| format!(".{part}")).unwrap_or_default();
    format!("{sign}{grouped}{part}")
}

/// The words for a code at a cell; the text is not trimmed.
pub(super) fn of_cell(
    (code, level): (Code, Level),
    field: Option<&Field>,
    program: Option<&Program>,
    picklists: &[Picklist],
    cell: Cell<'_>,
    sensitive: bool,
) -> Words {
    if let Some(words) = writing_words::of(code, level, cell) {
        return Words { suggestion: words.suggestion.filter(|_| !sensitive), ..words };
    }
    let text = cell.text.trim();
    let mut words = Words { message: entry(code).title.to_owned(), ..Words::default() };
    let (Some(field), Some(program)) = (field, program) else { return words };
    words.expected = expected(code, field, program, picklists);
    words.suggestion = suggestion(code, program, picklists, text).filter(|_| !sensitive);
    if let Some(more) = detail(code, program, text, sensitive) {
        words.message = format!("{}: {more}", words.message);
    }
    words
}

/// What more can be said of why.
fn detail(code: Code, program: &Program, text: &str, sensitive: bool) -> Option<String> {
    match (code, program) {
        (Code::EmailBad, _) => email::judge(text).err().as_ref().map(EmailFault::to_string),
        (Code::DateBad, Program::Date(dates)) => match dates.read(text.into()) {
            DateVerdict::Bad { swapped: Some(date), .. } if !sensitive => {
                Some(format!("with day and month the other way round it would be {date}"))
            }
            DateVerdict::Bad { swapped: Some(_), .. } => {
                Some("it would be one with day and month the other way round".to_owned())
            }
            DateVerdict::OtherWeekday(date, weekday) if !sensitive => Some(format!("{date} is a {weekday}")),
            DateVerdict::OtherWeekday(..) => Some("it falls on another weekday".to_owned()),
            DateVerdict::Bad { time: true, .. } => Some("it carries a time of day".to_owned()),
            _ => None,
        },
        (Code::TimeBad, Program::Datetime { zone: Some(zone), .. }) => {
            program.written_moment(text)?;
            Some(format!("the clocks in {} pass over it", zone.name()))
        }
        (Code::DateUnclear, Program::Date(dates)) => match dates.read(text.into()) {
            DateVerdict::Unclear(one, other) if !sensitive => Some(format!("{one} or {other}")),
            _ => None,
        },
        (Code::DigitsTooMany, Program::Decimal { digits, .. }) => {
            let number = crate::value::Number::decimal(text)?;
            let (before, after) = number.digits();
            let side = if digits.0.is_some_and(|most| before > most) {
                (before, "before")
            } else {
                (after, "after")
            };
            Some(format!("{} {} the point", side.0, side.1))
        }
        (Code::TextTooLong | Code::TextTooShort, Program::Text { rules: TextRules { length, .. }, .. })
        | (Code::TextTooLong | Code::TextTooShort, Program::Url { length } | Program::Uuid { length })
        | (Code::TextTooLong | Code::TextTooShort, Program::Email { length, .. }) => {
            Some(in_units(length.of(text), *length))
        }
        _ => None,
    }
}

fn expected(code: Code, field: &Field, program: &Program, picklists: &[Picklist]) -> Option<String> {
    match (code, program) {
        (Code::RequiredBlank | Code::KeyBlank, _) => Some(match &field.example {
            Some(example) => format!("a value, such as {example}"),
            None => "a value".to_owned(),
        }),
        (Code::EncodingDoubt, _) => Some("text in UTF-8".to_owned()),
        (Code::IntegerBad, _) => Some("a whole number".to_owned()),
        (Code::DecimalBad, Program::Decimal { marks, way, .. }) => {
            let has_comma = match marks {
                Some(marks) => marks.decimal == ',',
                None => *way == Some(Way::Second),
            };
            Some(format!("a number such as {}", if has_comma { "12,5" } else { "12.5" }))
        }
        (Code::DecimalBad, _) => Some("a number such as 12.5".to_owned()),
        (Code::DigitsTooMany, Program::Decimal { digits, .. }) => Some(match *digits {
            (Some(before), Some(after)) => {
                format!("at most {before} digits before and {after} after the point")
            }
            (Some(before), None) => format!("at most {before} digits before the point"),
            (None, after) => format!("at most {} digits after the point", after.unwrap_or(0)),
        }),
        (Code::OutOfRange, Program::Integer { range, .. } | Program::Decimal { range, .. }) => {
            between(range, |number| group_digits(&number.to_string()))
        }
        (Code::OutOfRange, Program::Date(dates)) => between(&dates.range, |date| dates.write(*date)),
        (Code::TextTooLong | Code::TextTooShort, Program::Text { rules: TextRules { length, .. }, .. })
        | (Code::TextTooLong | Code::TextTooShort, Program::Url { length } | Program::Uuid { length })
        | (Code::TextTooLong | Code::TextTooShort, Program::Email { length, .. }) => {
            Some(permitted_length(*length))
        }
        (Code::PatternBroken | Code::ZerosLost, Program::Text { rules, .. }) => Some(form(field, rules)),
        (Code::CaseWrong, Program::Text { rules, .. }) => Some(match rules.case {
            Some(case) => case.name().to_owned(),
            None => form(field, rules),
        }),
        (Code::BooleanBad, _) => Some("yes or no".to_owned()),
        (
            Code::DateBad | Code::DateImpossible | Code::DateUnclear | Code::DateAsNumber,
            Program::Date(dates),
        ) => {
            // Of the usual forms the plainest is named.
            if let Some(way) = dates.shared_way().filter(|_| !dates.has_twins()) {
                let day = if code == Code::DateImpossible { "a day that exists, as " } else { "a date as " };
                let order = match way {
                    Way::First => " or dd/MM/yyyy",
                    Way::Second => " or MM/dd/yyyy",
                    Way::Undecided => "",
                };
                return Some(format!("{day}yyyy-MM-dd{order}"));
            }
            let forms: Vec<_> = dates.forms.iter().map(|form| form.source()).collect();
            let day = if code == Code::DateImpossible { "a day that exists, as " } else { "a date as " };
            Some(format!("{day}{}", forms.join(" or ")))
        }
        (Code::DateTwoDigitYear, _) => Some("a year of four digits".to_owned()),
        (Code::OffList | Code::OffListRetired, Program::Picklist { list, .. }) => {
            picklists.get(*list).map(values_of)
        }
        (Code::NumberUnclear, _) => {
            Some("a number without marks between thousands, or a stated decimal mark".to_owned())
        }
        (Code::DecimalMark, Program::Decimal { way: Some(way), .. }) => Some(match way {
            Way::Second => "a comma before the decimals, as in the column".to_owned(),
            _ => "a point before the decimals, as in the column".to_owned(),
        }),
        (Code::EmailBad, _) => Some("one address such as name@example.org".to_owned()),
        (
            Code::DecimalMark,
            Program::Integer { marks: Some(marks), .. } | Program::Decimal { marks: Some(marks), .. },
        ) => Some(format!("{:?} before the decimals, as the plan states", marks.decimal.to_string())),
        (Code::DecimalMark, _) => Some("\".\" before the decimals, as the plan states".to_owned()),
        (Code::TimeBad, Program::Time { times, .. }) if !times.is_empty() => {
            let forms: Vec<&str> = times.iter().map(|form| form.source()).collect();
            Some(format!("a time as {}", forms.join(" or ")))
        }
        (Code::TimeBad, _) => Some("a time such as 09:30".to_owned()),
        (Code::DateBad, Program::Datetime { forms, .. }) => {
            let forms: Vec<&str> = forms.iter().map(|form| form.source()).collect();
            let stated = if forms.is_empty() { "2024-12-31T09:30".to_owned() } else { forms.join(" or ") };
            Some(format!("a date with a time, as {stated}"))
        }
        (Code::OutOfRange, Program::Time { range, .. }) => between(range, ToString::to_string),
        (Code::OutOfRange, Program::Datetime { .. }) => {
            let Range { min, max } = field.stated.range.clone();
            between(&Range { min, max }, Clone::clone)
        }
        (Code::PhoneBad, _) => Some("a number such as +44 20 7946 0018".to_owned()),
        (Code::UrlBad, _) => Some("an address such as https://trees.example/".to_owned()),
        (Code::UuidBad, _) => Some("five groups of 8, 4, 4, 4 and 12 hexadecimal digits".to_owned()),
        (Code::ReferenceUnknown | Code::ReferenceUnclear, _) => {
            Some(format!("a key of {}", field.stated.to.as_deref().unwrap_or("the other record")))
        }
        (Code::ListTooMany, Program::Many { max, .. }) => {
            Some(format!("at most {}", counted(max.unwrap_or(0) as u64, "value", "values")))
        }
        (Code::ListSeparator, Program::Many { separator, .. }) => {
            Some(format!("{separator:?} between the values"))
        }
        (Code::OffList | Code::OffListRetired, Program::Many { inner, .. }) => {
            expected(code, field, inner, picklists)
        }
        _ => None,
    }
}

/// A range in words.
fn between<T>(range: &Range<T>, write: impl Fn(&T) -> String) -> Option<String> {
    match (&range.min, &range.max) {
        (Some(min), Some(max)) => Some(format!("between {} and {}", write(min), write(max))),
        (Some(min), None) => Some(format!("{} or more", write(min))),
        (None, Some(max)) => Some(format!("{} or less", write(max))),
        (None, None) => None,
    }
}

/// A count in the unit of a length.
fn in_units(count: usize, length: Length) -> String {
    let (one, several) = match length.unit {
        LengthUnit::Character => ("character", "characters"),
        LengthUnit::Byte => ("byte", "bytes"),
        LengthUnit::Utf16 => ("UTF-16 unit", "UTF-16 units"),
    };
    counted(count as u64, one, several)
}

fn permitted_length(length: Length) -> String {
    match (length.min, length.max) {
        (Some(min), Some(max)) if min == max => format!("exactly {}", in_units(min, length)),
        (Some(min), Some(max)) => format!("{} to {}", grouped(min as u64), in_units(max, length)),
        (Some(min), None) => format!("at least {}", in_units(min, length)),
        (None, max) => format!("at most {}", in_units(max.unwrap_or(0), length)),
    }
}

/// The expected form of a text, never a bare pattern where words or an example are to be had.
fn form(field: &Field, rules: &TextRules) -> String {
    let words = || rules.pattern.as_ref().and_then(|pattern| pattern.words());
    match (&rules.pattern_says, &field.example) {
        (Some(says), _) => says.clone(),
        (None, Some(example)) => format!("a value of the form of {example}"),
        (None, None) => words().unwrap_or_else(|| "the form that the record schema states".to_owned()),
    }
}

/// The permitted values, as far as they can be named in a line.
fn values_of(list: &Picklist) -> String {
    const NAMED: usize = 6;
    let current = if list.current() > NAMED { 0 } else { NAMED };
    let names: Vec<_> = list
        .values
        .iter()
        .filter(|value| !value.retired)
        .take(current)
        .map(|value| match &value.label {
            Some(label) if !list.exact && *label != value.code => format!("{label} ({})", value.code),
            _ => value.code.clone(),
        })
        .collect();
    match list.current() {
        0 => format!("a value of the picklist {}", list.name),
        1..=6 => format!("one of {}", names.join(", ")),
        more => format!("one of {} values of the picklist {}", grouped(more as u64), list.name),
    }
}

fn suggestion(code: Code, program: &Program, picklists: &[Picklist], text: &str) -> Option<String> {
    match (code, program) {
        (Code::OffList, Program::Picklist { list, .. }) => {
            picklists.get(*list).and_then(|list| list.nearest(text)).map(ToOwned::to_owned)
        }
        (Code::CaseWrong, Program::Text { rules, .. }) => cased(rules, text),
        (Code::ZerosLost, Program::Text { rules, .. }) => with_zeros(rules, text),
        (Code::DecimalMark, Program::Decimal { marks, way, affixes, digits, range, .. }) => {
            // The number as the column would write it.
            let text = affixes.bare(text);
            let (point, comma) = evidence::numbers(&text, *digits, range);
            let is_comma = match (way, marks) {
                (Some(way), _) => *way == Way::Second,
                (None, marks) => marks.is_some_and(|marks| marks.decimal == ','),
            };
            let number = if is_comma { point.or(comma) } else { comma.or(point) };
            number.map(|number| number.to_string().replace('.', if is_comma { "," } else { "." }))
        }
        (Code::DateAsNumber, Program::Date(dates)) => serial::read(text).map(|day| dates.write(day)),
        (Code::ReferenceUnknown, Program::Reference { keys: Some(keys), .. }) => {
            keys.nearest(text).map(ToOwned::to_owned)
        }
        (Code::ListSeparator, Program::Many { inner, separator, .. }) => {
            let other = other_separator(inner, separator, text, picklists)?;
            let parts: Vec<&str> = text.split(other).map(str::trim).collect();
            Some(parts.join(&format!("{} ", separator.trim())))
        }
        (Code::OffList | Code::ReferenceUnknown, Program::Many { inner, separator, .. }) => {
            let is_off = |part: &&str| inner.judge(*part, picklists).codes().any(|found| found == code);
            let wrong = text.split(separator.as_str()).map(str::trim).find(is_off)?;
            suggestion(code, inner, picklists, wrong)
        }
        (Code::IntegerBad, _) => {
            // A number that is whole but for zeros behind its point.
            let number = crate::value::Number::decimal(text).filter(|number| number.digits().1 == 0)?;
            Some(number.to_string())
        }
        _ => None,
    }
}
