//! Whether the last row is a total: its key is blank or a word for a total, and every number in it sums the
//! readable values of its column.

use super::compiled::Compiled;
use super::kinds::Program;
use super::total_words::is_total_word;
use crate::block::Block;
use crate::catalogue::{Code, Level, entry};
use crate::finding::Finding;
use crate::headings::Paired;
use crate::rows::{Cells, text_of};
use crate::scan::walk_row;
use crate::value::{AroundNumber, Fixed, Marks, Number};

/// A last row that may be a total, or a note below the table.
#[derive(Debug)]
pub(crate) struct Ending {
    /// Its numbers by column, as they stand.
    numbers: Vec<(usize, String)>,
    /// Whether it may sum what stands above it.
    may_sum: bool,
    /// Whether a word for a total stands in it.
    is_named: bool,
    /// Whether that word stands where the key does: then it is no record, whatever its numbers sum.
    is_called: bool,
    /// Whether its first cell under a heading, or one before it, is filled alone, with what is no value there.
    is_note: bool,
    /// Whether that cell holds several words.
    has_words: bool,
}

/// What a last row is.
#[derive(Debug, PartialEq, Eq)]
pub(crate) enum LastRow {
    /// A record like any other.
    Record,
    /// A total of the rows above it.
    Total,
    /// A note below the table.
    Footer,
    /// Called a total, but it does not sum: the column, what stands there, and the sums of the rows that stay and of
    /// all rows.
    Wrong(usize, String, [String; 2]),
}

/// How the numbers of a file may be read throughout: the decimal mark, and whether those count that have a currency or a unit
/// around them. Whoever added them up by hand counted them; spreadsheets take them for texts. Of two neighbours one has the other's
/// mark.
const WAYS: [(char, bool); 4] = [('.', false), (',', false), ('.', true), (',', true)];

/// What the columns of an [`Ending`] sum up to.
#[derive(Debug)]
pub(crate) struct Sums {
    /// By way, and by column.
    sums: [Vec<Sum>; WAYS.len()],
    /// The same, with the cells of rows of another width where they stand: whoever summed them saw a sheet in
    /// which they stood right.
    with_misfits: [Vec<Sum>; WAYS.len()],
    rows: u64,
    /// Rows of which more than one cell is filled.
    fuller: u64,
}

/// A number with this decimal mark; the other mark, spaces and apostrophes part its thousands. A currency or a unit may
/// stand before or behind it: what was found there last is tried first.
fn read(text: &str, mark: char, around: &mut Option<AroundNumber>) -> Option<Number<'static>> {
    if let Some(number) = read_bare(text, mark) {
        return Some(number);
    }
    if let Some(number) = around.as_ref().and_then(|around| around.number(text)) {
        return read_bare(number, mark);
    }
    let found = AroundNumber::of(text)?;
    let number = read_bare(found.number(text)?, mark);
    *around = Some(found);
    number
}

fn read_bare(text: &str, mark: char) -> Option<Number<'static>> {
    if mark == '.'
        && let Some(number) = Number::decimal(text)
    {
        return Some(number.into_owned());
    }
    let marks = if mark == '.' { Marks::POINT } else { Marks::COMMA };
    let plain = marks.plain_by_any(text)?;
    Number::decimal(&plain).map(Number::into_owned)
}

impl Compiled {
    /// Whether the block begins with one of the last rows, of which one may be a total and others notes.
    pub(crate) fn may_be_ending(&self, block: &Block) -> bool {
        // Where rows make records with others, what stands above a row must be known: the last one alone waits.
        self.table.seeks_total
            && block.is_ending
            && (self.schema.lines.is_none() || block.last && self.ending(block).is_some())
    }

    /// One of the last rows as a total or a note, if it may be one; it is the first row of the block.
    pub(crate) fn ending(&self, block: &Block) -> Option<Ending> {
        if !self.table.seeks_total || !block.is_ending {
            return None;
        }
        let mut cells = row_at(self, block, 0)?;
        // What a held file says of its rows is nothing of theirs.
        let own = cells.iter_mut().enumerate().filter(|(column, _)| self.is_of_ours(*column));
        own.for_each(|(_, cell)| cell.clear());
        // A line of a record leaves the record's key blank, but not its own.
        let line_key = self.schema.lines.iter().flat_map(|lines| &lines.key);
        let key: Vec<_> = self
            .schema
            .key
            .iter()
            .chain(line_key)
            .filter_map(|field| self.pairing.column_of.get(*field).copied()?)
            .collect();
        let text = |column: usize| cells.get(column).map_or("", String::as_str);
        let is_named = cells.iter().any(|cell| is_total_word(cell));
        let key_says_so = key.iter().all(|&column| text(column).is_empty() || is_total_word(text(column)));
        let first = cells.iter().find(|cell| !cell.is_empty());
        let first_says_so = first.is_some_and(|cell| is_total_word(cell));
        let is_called = match key.as_slice() {
            [] => first_says_so,
            key => key_says_so && (key.iter().any(|&column| is_total_word(text(column))) || first_says_so),
        };
        let mut numbers = Vec::new();
        let mut others = 0;
        for (column, cell) in
            cells.iter().enumerate().filter(|(_, cell)| !cell.is_empty() && !is_total_word(cell))
        {
            if ['.', ','].into_iter().any(|mark| read(cell, mark, &mut None).is_some()) {
                numbers.push((column, cell.clone()));
            } else {
                others += 1;
            }
        }
        // Without the word, a record that lacks its key must not be taken for a total; nor a line of a record.
        let is_plain =
            others == 0 && numbers.iter().any(|(_, text)| text.contains(|c: char| ('1'..='9').contains(&c)));
        let is_known = match self.schema.lines {
            Some(_) => is_called,
            None => is_named || is_plain && !key.is_empty(),
        };
        let may_sum = key_says_so && !numbers.is_empty() && is_known;
        let is_alone = cells.iter().filter(|cell| !cell.is_empty()).count() == 1;
        let at = cells.iter().position(|cell| !cell.is_empty()).unwrap_or_default();
        let is_first = (0..at).all(|before| self.is_of_ours(before) || self.is_without_heading(before));
        let is_note = is_alone && is_first && (is_called || self.fits_not(at, text(at)));
        let has_words = text(at).split_whitespace().nth(2).is_some();
        (may_sum || is_note).then_some(Ending { numbers, may_sum, is_named, is_called, is_note, has_words })
    }

    /// Whether the last row, which begins the block, may be a total.
    #[must_use]
    pub fn may_be_total(&self, block: &Block) -> bool {
        self.ending(block).is_some_and(|ending| ending.may_sum)
    }

    /// Whether one of the last rows, which begins the block, may be a total or a note below the table. Above others a note is
    /// called a total, or has words enough to be none of the values that a sparse table holds.
    #[must_use]
    pub fn may_be_no_record(&self, block: &Block) -> bool {
        let is_note =
            |ending: &Ending| ending.is_note && (block.last || ending.has_words || ending.is_called);
        self.ending(block).is_some_and(|ending| ending.may_sum || is_note(&ending) && self.width() > 1)
    }

    /// Whether a column is one of those that a held file carries beside the sender's.
    fn is_of_ours(&self, column: usize) -> bool {
        matches!(self.pairing.columns.get(column), Some(Paired::Own))
    }

    /// Whether a column has no heading: sheets often begin with an empty one.
    fn is_without_heading(&self, column: usize) -> bool {
        matches!(self.pairing.columns.get(column), Some(Paired::Blank))
    }

    /// Whether a text is no value of the field of a column, or the column has none.
    fn fits_not(&self, number: usize, text: &str) -> bool {
        let Some(column) = self.columns.get(number) else { return false };
        if column.is_blank(text) || column.reading.clears(text) {
            return false;
        }
        let verdict = column.program.judge(text, &self.schema.picklists);
        matches!(column.program, Program::Free(_))
            || verdict.codes().any(|code| self.level(code, number) == Level::Stop)
    }

    /// Adds the readable numbers of a block that was laid out.
    pub(crate) fn add_up(&self, ending: &Ending, cells: &Cells, block: &Block, sums: &mut Sums) {
        sums.rows += cells.len() as u64;
        if ending.is_note {
            let is_filled = |row: usize, column: usize| {
                let (start, end) = cells.cell(row, column);
                let raw = block.buffer.get(start..end).unwrap_or_default();
                text_of(raw, self.table.dialect).is_ok_and(|text| !text.trim().is_empty())
            };
            let filled = |row: &usize| {
                let columns = (0..self.width()).filter(|column| !self.is_of_ours(*column));
                columns.filter(|column| is_filled(*row, *column)).nth(1)
            };
            sums.fuller += (0..cells.len()).filter(|row| filled(row).is_some()).count() as u64;
        }
        let misfits = cells.misfits.iter().filter(|misfit| misfit.judged.is_none());
        let misfits: Vec<_> =
            misfits.filter_map(|misfit| row_at(self, block, misfit.start as usize)).collect();
        let readings = WAYS.iter().zip(&mut sums.sums).zip(&mut sums.with_misfits);
        for (((mark, takes_around), sums), with_misfits) in readings {
            for ((column, _), (sum, with_misfits)) in
                ending.numbers.iter().zip(sums.iter_mut().zip(with_misfits))
            {
                let mut around = None;
                let mut number = |text: &str| match takes_around {
                    true => read(text, *mark, &mut around),
                    false => read_bare(text, *mark),
                };
                for row in 0..cells.len() {
                    // A cell that a short row lacks holds nothing.
                    if *column >= self.width() {
                        break;
                    }
                    let (start, end) = cells.cell(row, *column);
                    let raw = block.buffer.get(start..end).unwrap_or_default();
                    let Ok(text) = text_of(raw, self.table.dialect) else { continue };
                    if let Some(number) = number(text.trim()) {
                        sum.add(&number);
                        with_misfits.add(&number);
                    }
                }
                let cells = misfits.iter().filter_map(|row| number(row.get(*column)?));
                cells.for_each(|number| with_misfits.add(&number));
            }
        }
    }

    /// What is said of one of the last rows that is no record.
    pub(crate) fn last_row(&self, block: &Block, what: &LastRow, is_last: bool) -> Option<Finding> {
        let called = if is_last { "the last row" } else { "the row above the notes below the table" };
        let (code, message) = match what {
            LastRow::Record => return None,
            LastRow::Total => {
                (Code::TotalRow, format!("{called} sums the rows above it; it is no record and was left out"))
            }
            LastRow::Footer if is_last => {
                (Code::FooterRow, "the last row is a note below the table; it was left out".to_owned())
            }
            LastRow::Footer => {
                (Code::FooterRow, "the row is one of the notes below the table; it was left out".to_owned())
            }
            LastRow::Wrong(_, number, [sum, all]) => {
                let all = if all == sum { String::new() } else { format!(", all of them to {all}") };
                let message =
                    format!("{called} is called a total and says {number}; the rows sum to {sum}{all}");
                (Code::TotalWrong, message)
            }
        };
        let mut finding = Finding::new(code, entry(code).level, message);
        finding.row = Some(block.first_row);
        finding.line = Some(block.first_line);
        if let LastRow::Wrong(column, number, _) = what {
            if *column < self.width() {
                self.place(*column, &mut finding);
            }
            finding.set_value(number, self.is_sensitive(*column));
        }
        Some(self.told(self.table.placed(finding)))
    }
}

impl Ending {
    /// Whether it is called a total where its key stands.
    pub(crate) fn is_called(&self) -> bool {
        self.is_called
    }

    /// Sums to be added up.
    pub(crate) fn sums(&self) -> Sums {
        let none = || WAYS.map(|_| self.numbers.iter().map(|_| Sum::default()).collect());
        Sums { sums: none(), with_misfits: none(), rows: 0, fuller: 0 }
    }

    /// What the row is, by the sums of the rows that stay and of all rows.
    pub(crate) fn what(&self, staying: &Sums, all: &Sums) -> LastRow {
        if self.is_note && staying.fuller > 0 && staying.fuller * 2 > staying.rows {
            return LastRow::Footer;
        }
        if self.may_sum && [staying, all].iter().any(|sums| self.is_total(sums)) {
            return LastRow::Total;
        }
        if !self.may_sum || !self.is_called {
            return LastRow::Record;
        }
        // Those of the rows are told as those of the total are written.
        let has_around = self
            .numbers
            .iter()
            .any(|(_, text)| ['.', ','].iter().all(|mark| read_bare(text, *mark).is_none()));
        let is_readable = |(mark, takes_around): &(char, bool)| {
            *takes_around == has_around
                && self.numbers.iter().all(|(_, text)| read(text, *mark, &mut None).is_some())
        };
        let way = WAYS.iter().position(is_readable).unwrap_or_default();
        let sum = |sums: &Sums, at: usize| {
            sums.sums.get(way).and_then(|sums| sums.get(at)).map_or_else(|| "0".to_owned(), Sum::text)
        };
        let is_off = |(at, (_, text)): &(usize, &(usize, String))| {
            let number = WAYS.get(way).and_then(|(mark, _)| read(text, *mark, &mut None));
            let sums = staying.sums.get(way).and_then(|sums| sums.get(*at));
            !sums.is_some_and(|sum| number.is_some_and(|number| sum.is(&number)))
        };
        let off = self.numbers.iter().enumerate().find(is_off).or(self.numbers.iter().enumerate().next());
        off.map_or(LastRow::Record, |(at, (column, text))| {
            LastRow::Wrong(*column, text.clone(), [sum(staying, at), sum(all, at)])
        })
    }

    /// Whether the row is the total of these sums.
    fn is_total(&self, sums: &Sums) -> bool {
        let enough = sums.rows >= 2 || self.is_named;
        let fits = |all: &[Vec<Sum>]| {
            WAYS.iter().enumerate().any(|(way, (mark, _))| {
                self.numbers.iter().enumerate().all(|(at, (_, text))| {
                    let sum = |way: usize| all.get(way).and_then(|sums| sums.get(at));
                    // Where the other mark reads numbers and this one none, there is nothing to be nought.
                    let reads = sum(way).is_some_and(|sum| sum.count > 0)
                        || sum(way ^ 1).is_none_or(|other| other.count == 0);
                    let number = read(text, *mark, &mut None);
                    reads && number.zip(sum(way)).is_some_and(|(number, sum)| sum.is(&number))
                })
            })
        };
        enough && (fits(&sums.sums) || fits(&sums.with_misfits))
    }
}

/// An exact sum.
#[derive(Debug)]
struct Sum {
    /// Nothing when it grew beyond all bounds.
    sum: Option<Fixed>,
    /// How many numbers it is of.
    count: u64,
}

impl Default for Sum {
    fn default() -> Self {
        Self { sum: Some(Fixed::ZERO), count: 0 }
    }
}

impl Sum {
    fn add(&mut self, number: &Number<'_>) {
        self.count += 1;
        self.sum = self.sum.and_then(|sum| sum.checked_add(Fixed::of(number)?));
    }

    fn is(&self, number: &Number<'_>) -> bool {
        self.sum.is_some_and(|sum| Fixed::of(number) == Some(sum))
    }

    /// The sum as people write it.
    fn text(&self) -> String {
        self.sum.map_or_else(|| "a number beyond all bounds".to_owned(), |sum| sum.to_string())
    }
}

/// The trimmed texts of the row of a block that begins there; nothing where it is wider than any total of the table.
fn row_at(gate: &Compiled, block: &Block, start: usize) -> Option<Vec<String>> {
    const WIDER: usize = 1000;
    let dialect = gate.table.dialect;
    let (mut ends, most) = (Vec::new(), gate.width() + WIDER);
    let push = |end| {
        if ends.len() <= most {
            ends.push(end);
        }
    };
    walk_row(block.content(), start, dialect, push, |_| ());
    if ends.len() > most {
        return None;
    }
    let mut from = start;
    let mut cell = |end: usize| {
        let raw = block.content().get(from..end).unwrap_or_default();
        from = end + 1;
        let text = text_of(raw.strip_suffix(b"\r").unwrap_or(raw), dialect);
        text.map(|text| text.trim().to_owned()).unwrap_or_else(|_| "\u{FFFD}".to_owned())
    };
    Some(ends.into_iter().map(&mut cell).collect())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sums_are_exact() {
        let mut sum = Sum::default();
        assert!(sum.is(&Number::decimal("0").unwrap()));
        sum.add(&Number::decimal("999.08").unwrap());
        assert!(sum.is(&Number::decimal("999.080").unwrap()));
        sum.add(&Number::decimal(&"9".repeat(60)).unwrap());
        assert!(!sum.is(&Number::decimal("1").unwrap()));
    }
}
