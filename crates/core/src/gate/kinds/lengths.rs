//! Lengths of texts: judged, and in words.

use crate::catalogue::Code;
use crate::gate::verdict::Verdict;
use crate::numerals::{counted, grouped};
use crate::value::{Length, LengthUnit};

pub(super) fn judge_length(length: Length, text: &str) -> Verdict {
    if length.min.is_none() && length.max.is_none() {
        return Verdict::SOUND;
    }
    let found = length.of(text);
    if length.max.is_some_and(|max| found > max) {
        Verdict::one(Code::TextTooLong)
    } else if length.min.is_some_and(|min| found < min) {
        Verdict::one(Code::TextTooShort)
    } else {
        Verdict::SOUND
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

/// What is expected of a text that is too long or too short.
pub(super) fn expected_length(code: Code, length: Length) -> Option<String> {
    matches!(code, Code::TextTooLong | Code::TextTooShort).then(|| permitted_length(length))
}

/// How long such a text is.
pub(super) fn found_length(code: Code, length: Length, text: &str) -> Option<String> {
    matches!(code, Code::TextTooLong | Code::TextTooShort).then(|| in_units(length.of(text), length))
}
