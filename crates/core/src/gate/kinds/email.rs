//! `email`: one address (RFC 5321 and RFC 6531, as far as targets take them).

use super::from::From;
use super::judging::Judging;
use super::lengths::{expected_length, found_length, judge_length};
use super::value::Value;
use crate::catalogue::Code;
use crate::gate::sweep::{Sound, Sweep, Swept};
use crate::gate::verdict::{Given, Verdict};
use crate::scan::{LONGEST_EMAIL, Lanes};
use crate::schema::{Field, Kind};
use crate::value::{EmailFault, Length, Picklist, email};

/// The permitted length.
#[derive(Debug)]
pub(crate) struct Email {
    length: Length,
    /// No address of at most so many bytes can be too long.
    longest: usize,
}

impl Email {
    pub(super) fn of(field: &Field, _: From<'_>) -> Option<Self> {
        let Kind::Email(length) = &field.kind else { return None };
        let longest = if length.min.is_some() { 0 } else { length.max.unwrap_or(email::LONGEST) };
        Some(Self { length: *length, longest })
    }
}

impl Judging for Email {
    // What is no address is compared as it stands.
    fn read<'a>(&self, given: Given<'a>, _: &'a [Picklist]) -> Result<Value<'a>, Verdict> {
        Ok(Value::Text(given.text.into()))
    }

    fn check(&self, _: &Value<'_>, text: &str) -> Verdict {
        match email::judge(text) {
            Ok(()) => judge_length(self.length, text),
            Err(_) => Verdict::one(Code::EmailBad),
        }
    }

    fn sweep(&self, sweep: Sweep<'_>) -> Swept {
        let (buffer, longest) = (sweep.buffer, self.longest.min(LONGEST_EMAIL));
        sweep.over(Common { buffer, longest })
    }

    fn is_verbatim(&self) -> bool {
        true
    }

    fn is_telling(&self, _: &[Picklist]) -> bool {
        true
    }

    fn expected(&self, code: Code, _: &Field, _: &[Picklist]) -> Option<String> {
        match code {
            Code::EmailBad => Some("one address such as name@example.org".to_owned()),
            _ => expected_length(code, self.length),
        }
    }

    fn detail(&self, code: Code, text: &str, _: bool) -> Option<String> {
        match code {
            Code::EmailBad => email::judge(text).err().as_ref().map(EmailFault::to_string),
            _ => found_length(code, self.length, text),
        }
    }
}

/// Addresses of the common shape.
struct Common<'a> {
    buffer: &'a [u8],
    longest: usize,
}

impl Sound for Common<'_> {
    #[inline(always)]
    fn sound<L: Lanes>(&self, lanes: &L, start: usize, end: usize) -> bool {
        let step = self.buffer.get(start..).and_then(|rest| rest.first_chunk());
        end - start <= self.longest && step.is_some_and(|step| lanes.is_address(step, end - start))
    }
}
