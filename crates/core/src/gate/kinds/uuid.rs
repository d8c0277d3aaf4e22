//! `uuid`: a universally unique identifier (RFC 9562, section 4).

use super::from::From;
use super::judging::Judging;
use super::lengths::{expected_length, found_length, judge_length};
use super::value::Value;
use crate::catalogue::Code;
use crate::gate::sweep::{Sweep, Swept};
use crate::gate::verdict::{Given, Verdict};
use crate::schema::{Field, Kind};
use crate::value::{Length, Picklist, web};

/// The permitted length.
#[derive(Debug)]
pub(crate) struct Uuid {
    length: Length,
}

impl Uuid {
    pub(super) fn of(field: &Field, _: From<'_>) -> Option<Self> {
        let Kind::Uuid(length) = &field.kind else { return None };
        Some(Self { length: *length })
    }
}

impl Judging for Uuid {
    fn read<'a>(&self, given: Given<'a>, _: &'a [Picklist]) -> Result<Value<'a>, Verdict> {
        match web::is_uuid(given.text) {
            true => Ok(Value::Text(given.text.to_ascii_lowercase().into())),
            false => Err(Verdict::one(Code::UuidBad)),
        }
    }

    fn check(&self, _: &Value<'_>, text: &str) -> Verdict {
        judge_length(self.length, text)
    }

    fn sweep(&self, sweep: Sweep<'_>) -> Swept {
        let buffer = sweep.buffer;
        if self.length.min.is_some() || self.length.max.is_some() {
            return sweep.none();
        }
        sweep.over_written(|start, end| plain_uuid(buffer, start, end))
    }

    fn is_telling(&self, _: &[Picklist]) -> bool {
        true
    }

    fn expected(&self, code: Code, _: &Field, _: &[Picklist]) -> Option<String> {
        match code {
            Code::UuidBad => Some("five groups of 8, 4, 4, 4 and 12 hexadecimal digits".to_owned()),
            _ => expected_length(code, self.length),
        }
    }

    fn detail(&self, code: Code, text: &str, _: bool) -> Option<String> {
        found_length(code, self.length, text)
    }
}

/// Whether the text is one, and then whether its letters are small, as the target has them.
#[inline(always)]
fn plain_uuid(buffer: &[u8], start: usize, end: usize) -> Option<bool> {
    let text = buffer.get(start..end).and_then(|raw| <&[u8; 36]>::try_from(raw).ok())?;
    // Thirty-two of them are digits, so that the other four are the hyphens; counted without branches.
    let is_digit = |byte: u8| byte.wrapping_sub(b'0') < 10 || (byte | 0x20).wrapping_sub(b'a') < 6;
    let digits: u8 = text.iter().map(|byte| u8::from(is_digit(*byte))).sum();
    // Of all that it may hold, capitals alone lack this bit.
    let is_small = text.iter().fold(0x20, |bit, byte| bit & byte) != 0;
    let is_one = digits == 32 && [text[8], text[13], text[18], text[23]] == [b'-'; 4];
    is_one.then_some(is_small)
}
