//! What the cells of a file decided of its columns, by all their votes.

use super::compiled::Compiled;
use super::evidence::{FORMS, Votes, Way, form_words};
use super::kinds::Program;
use crate::decided::{Decided, DecidedField};

impl Compiled {
    /// What the cells decided, by all their votes.
    #[must_use]
    pub fn decided(&self, votes: &[Votes]) -> Decided {
        let one = |(number, votes): (usize, &Votes)| {
            let column = self.columns.get(number)?;
            let field = self.field_name(number)?;
            let why = self
                .told_way(number, *votes)
                .map(|finding| finding.sentence().into_owned())
                .unwrap_or_default();
            match &column.program {
                Program::Date(dates) if dates.orders.is_some() && !dates.has_twins() => {
                    let orders = votes.orders();
                    let is_there = |form: &usize| {
                        let cells = votes.forms.get(*form).map_or(0, |poll| poll.cells());
                        cells > 0 && orders.of(*form) != Way::Undecided
                    };
                    let decided = (0..FORMS).filter(is_there).map(|form| form_words(form, orders.of(form)));
                    let decided: Vec<String> = decided.collect();
                    if decided.is_empty() {
                        return None;
                    }
                    // What needs no deciding is read as before.
                    let others = dates.forms.iter().map(|form| form.source().to_owned());
                    let dates = decided.into_iter().chain(others).collect();
                    Some(DecidedField { field, dates, decimal_mark: None, why })
                }
                Program::Decimal(decimal) if decimal.way.is_some() && !why.is_empty() => {
                    let mark = match votes.mark() {
                        Way::First => '.',
                        Way::Second => ',',
                        Way::Undecided => return None,
                    };
                    Some(DecidedField { field, dates: Vec::new(), decimal_mark: Some(mark), why })
                }
                _ => None,
            }
        };
        Decided { fields: votes.iter().enumerate().filter_map(one).collect() }
    }
}
