//! Values in the form in which they are handed on.

use super::compiled::{Column, Compiled};
use super::form::Form;
use super::kinds::{Nature, Program, writes};
use super::verdict::Given;
use crate::scan::plain_text;
use crate::value::Number;
use std::borrow::Cow;

impl Compiled {
    /// Whether the value of a cell is written in another way than the target's; noughts that carry nothing, and how a
    /// sheet stores numbers and days, are no matter.
    pub(super) fn is_unlike(&self, column: &Column, text: &str, given: Given<'_>) -> bool {
        let has_outer_space = column.reading.trim && given.text.len() < text.len();
        if column.program.is_verbatim() {
            return has_outer_space && column.field.is_some();
        }
        let is_stored = given.is_stored && column.program.is_stored_as_such();
        let is_plain = |text: &str| {
            let digits = text.strip_prefix('-').unwrap_or(text);
            column.form == Form::Standard
                && matches!(column.program.nature(), Nature::Whole | Nature::Number)
                && digits.bytes().all(|byte| byte.is_ascii_digit() || byte == b'.')
                && !self.is_grouped(column, text)
        };
        if is_stored || is_plain(given.text) {
            return has_outer_space;
        }
        let formed = self.formed(&column.form, given, &column.program);
        formed.is_some_and(|formed| has_outer_space || *formed != *given.text)
    }

    /// The text of a raw cell that stands in the target's own form already, as far as that is plain from its bytes.
    pub(super) fn standing<'a>(&self, column: &Column, raw: &'a [u8]) -> Option<&'a str> {
        if column.guard.is_some() {
            return None;
        }
        let text = plain_text(raw, self.table.dialect).filter(|text| column.program.stands(text))?;
        std::str::from_utf8(text).ok()
    }

    /// The value of a cell in the target's own form, or as it stands where it cannot be read.
    pub(super) fn formed_or_as_it_is(&self, column: &Column, text: &str, raw: &[u8]) -> Cow<'static, str> {
        let trimmed = text.trim();
        let given = Given::of(trimmed, raw, self.table.dialect);
        let formed = self.formed(&Form::Standard, given, &column.program).map(Cow::into_owned);
        Cow::Owned(formed.unwrap_or_else(|| trimmed.to_owned()))
    }

    /// Whether a point in a number parts thousands.
    fn is_grouped(&self, column: &Column, text: &str) -> bool {
        let plain = Number::decimal(text).map(|number| number.to_string());
        let read = column.program.standard(text, &self.schema.picklists);
        read.map(Cow::into_owned) != plain
    }

    /// A value in the form in which it is handed on; nothing where the text has none.
    pub(super) fn formed<'a>(
        &'a self,
        form: &Form,
        given: Given<'a>,
        program: &Program,
    ) -> Option<Cow<'a, str>> {
        let picklists = &self.schema.picklists;
        let own = || program.written(given, picklists);
        Some(match (form, program) {
            // A field's own forms are what the target takes.
            (Form::Dated(pattern), Program::Date(dates))
                if dates.own.is_empty() || dates.own.contains(pattern) =>
            {
                let day = dates.day(given)?;
                match writes(pattern, day, dates.today) {
                    true => pattern.write(day).into(),
                    false => dates.write(day).into(),
                }
            }
            (Form::Truth(yes, no), _) => match own()?.as_ref() {
                "true" => Cow::Owned(yes.clone()),
                "false" => Cow::Owned(no.clone()),
                other => Cow::Owned(other.to_owned()),
            },
            (Form::Marked(mark), _) => own()?.replace('.', &mark.to_string()).into(),
            (Form::Labelled(list), Program::Picklist(_)) => {
                let code = own()?;
                let list = picklists.get(*list);
                match list.and_then(|list| list.label_of(&code)) {
                    Some(label) => Cow::Owned(label.to_owned()),
                    None => code,
                }
            }
            _ => own()?,
        })
    }
}
