//! The ways of writing that columns show: taken from the first rows, settled by all of them, and told.

use super::at_heading::at_heading;
use super::compiled::Compiled;
use super::evidence::{FORMS, Poll, Votes, WITH_COMMA, WITH_POINT, Way, form_words};
use super::kinds::Program;
use crate::catalogue::Code;
use crate::finding::Finding;
use crate::numerals::{counted, grouped};

impl Compiled {
    /// Takes the ways of writing that the first rows show.
    pub(super) fn guess_ways(&mut self) {
        for (number, column) in self.columns.iter_mut().enumerate() {
            let mut votes = Votes::default();
            let cells =
                self.table.sample.iter().filter_map(|row| row.get(number)).filter(|cell| !cell.is_empty());
            cells.for_each(|cell| votes.add(column.program.vote(cell.as_str().into())));
            match &mut column.program {
                Program::Date(dates) => dates.orders = dates.orders.map(|_| votes.orders()),
                Program::Decimal(decimal) => decimal.way = decimal.way.map(|_| votes.mark()),
                _ => {}
            }
        }
    }

    /// Takes the ways of writing that all rows have shown. Whether one is another than was taken: then the rows are to
    /// be judged once more.
    pub(super) fn take_ways(&mut self, outcome: &[Votes]) -> bool {
        let mut is_changed = false;
        for (column, votes) in self.columns.iter_mut().zip(outcome) {
            match &mut column.program {
                Program::Date(dates) => {
                    if let Some(orders) = &mut dates.orders
                        && !votes.bear_out(orders)
                    {
                        *orders = votes.orders();
                        is_changed = true;
                    }
                }
                Program::Decimal(decimal) if decimal.way.is_some_and(|way| way != votes.mark()) => {
                    decimal.way = Some(votes.mark());
                    is_changed = true;
                }
                _ => {}
            }
        }
        is_changed
    }

    /// What is to be said of the way that a column is written, where it was read off its cells.
    pub(crate) fn told_way(&self, number: usize, votes: Votes) -> Option<Finding> {
        let message = match &self.columns.get(number)?.program {
            Program::Date(dates) => {
                dates.orders?;
                dates_told(votes)?
            }
            Program::Decimal(decimal) if decimal.way.is_some() => marks_told(votes)?,
            _ => return None,
        };
        let finding = at_heading(self, Code::FormGuessed, number, message);
        Some(self.told(Finding { field: self.field_name(number), ..finding }))
    }
}

fn cells(count: u64) -> String {
    counted(count, "cell", "cells")
}

fn fit(count: u64) -> String {
    format!("{} {}", cells(count), if count == 1 { "fits" } else { "fit" })
}

/// The order of day and month, form by form where there are several.
fn dates_told(votes: Votes) -> Option<String> {
    let orders = votes.orders();
    let forms = || (0..FORMS).filter_map(|form| Some((form, *votes.forms.get(form)?)));
    let voting: Vec<_> = forms().filter(|(_, poll)| poll.votes() > 0).collect();
    let borrowing: Vec<_> =
        forms().filter(|(form, poll)| poll.open > 0 && orders.is_borrowed(*form)).collect();
    let several = voting.len() + borrowing.len() > 1;
    let told = |(form, poll): &(usize, Poll)| {
        let way = orders.of(*form);
        let named = if several { format!(" as {}", form_words(*form, way)) } else { String::new() };
        match way {
            Way::Undecided => format!(
                "read{named} each as it can be: {} day before month only, {} month before day only{}",
                fit(poll.first),
                fit(poll.second),
                if poll.open > 0 {
                    format!("; {} both and are unclear", fit(poll.open))
                } else {
                    String::new()
                }
            ),
            way => {
                let (name, count, against) = match way {
                    Way::Second => ("month before day", poll.second, poll.first),
                    _ => ("day before month", poll.first, poll.second),
                };
                let against =
                    if against > 0 { format!(", {} against it", grouped(against)) } else { String::new() };
                let form = if several { format!(" ({})", form_words(*form, way)) } else { String::new() };
                format!("read with {name}{form}: {} only that{against}", fit(count))
            }
        }
    };
    let lent = |(form, poll): &(usize, Poll)| {
        let way = orders.of(*form);
        let so = if poll.open == 1 { "is read so too" } else { "are read so too" };
        format!(
            "{} of the form {} {so}, without evidence of their own",
            cells(poll.open),
            form_words(*form, way)
        )
    };
    let parts: Vec<_> = voting.iter().map(told).chain(borrowing.iter().map(lent)).collect();
    (!parts.is_empty()).then(|| parts.join("; "))
}

/// The mark before decimals; that points alone are decimal points is told where they could part thousands.
fn marks_told(votes: Votes) -> Option<String> {
    let all = votes.numbers();
    let (points, commas) = (votes.open_with(WITH_POINT), votes.open_with(WITH_COMMA));
    let against = |count: u64| {
        if count > 0 { format!(", {} against it", grouped(count)) } else { String::new() }
    };
    let thousands = |count: u64| {
        let what = if count == 1 { "could be a thousand too" } else { "could be thousands too" };
        if count > 0 { format!("; {} {what}", cells(count)) } else { String::new() }
    };
    Some(match votes.mark() {
        Way::First if all.second + points + commas == 0 => return None,
        Way::First if all.first == 0 => {
            let could = if points == 1 { "could be a thousand too" } else { "could be thousands too" };
            format!("read with a point before the decimals: {} {could}", cells(points))
        }
        Way::First => format!(
            "read with a point before the decimals: {} only that{}{}",
            fit(all.first),
            against(all.second),
            thousands(points + commas)
        ),
        Way::Second => format!(
            "read with a comma before the decimals: {} only that{}{}",
            fit(all.second),
            against(all.first),
            thousands(points + commas)
        ),
        Way::Undecided if all.votes() == 0 => return None,
        Way::Undecided => {
            let open = if all.open > 0 {
                let are = if all.open == 1 { "is" } else { "are" };
                format!("; {} both and {are} unclear", fit(all.open))
            } else {
                String::new()
            };
            format!(
                "the mark before the decimals is not decided, so each cell is read with its own: {} a point only, {} a \
                 comma only{open}",
                fit(all.first),
                fit(all.second)
            )
        }
    })
}
