//! `url`: a web address.

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
pub(crate) struct Url {
    length: Length,
}

impl Url {
    pub(super) fn of(field: &Field, _: From<'_>) -> Option<Self> {
        let Kind::Url(length) = &field.kind else { return None };
        Some(Self { length: *length })
    }
}

impl Judging for Url {
    fn read<'a>(&self, given: Given<'a>, _: &'a [Picklist]) -> Result<Value<'a>, Verdict> {
        match web::is_url(given.text) {
            true => Ok(Value::Text(given.text.into())),
            false => Err(Verdict::one(Code::UrlBad)),
        }
    }

    fn check(&self, _: &Value<'_>, text: &str) -> Verdict {
        judge_length(self.length, text)
    }

    fn sweep(&self, sweep: Sweep<'_>) -> Swept {
        let (buffer, longest) = (sweep.buffer, self.length.max.unwrap_or(usize::MAX));
        if self.length.min.is_some() {
            return sweep.none();
        }
        sweep.over(|start, end| {
            end - start <= longest && web::is_common_url(buffer.get(start..end).unwrap_or_default())
        })
    }

    fn is_verbatim(&self) -> bool {
        true
    }

    fn is_telling(&self, _: &[Picklist]) -> bool {
        true
    }

    fn expected(&self, code: Code, _: &Field, _: &[Picklist]) -> Option<String> {
        match code {
            Code::UrlBad => Some("an address such as https://trees.example/".to_owned()),
            _ => expected_length(code, self.length),
        }
    }

    fn detail(&self, code: Code, text: &str, _: bool) -> Option<String> {
        found_length(code, self.length, text)
    }
}
