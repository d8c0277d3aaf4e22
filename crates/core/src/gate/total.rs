//! Whether the last row is a total: its key is blank or a word for a total, and every number in it sums the
//! readable values of its column.

use super::Gate;
use super::cells::text_of;
use super::judge::Judge;
use crate::block::Block;
use crate::catalogue::{Code, entry};
use crate::finding::Finding;
use crate::scan::walk_row;
use crate::value::Number;

/// A last row that may be a total.
#[derive(Debug)]
pub(crate) struct Ending {
    /// Its numbers by column, as they stand.
    numbers: Vec<(usize, String)>,
    /// Whether a word for a total stands in it.
    is_named: bool,
}

/// The decimal marks that a file may use throughout.
const MARKS: [char; 2] = ['.', ','];

/// What the columns of an [`Ending`] sum up to.
#[derive(Debug)]
pub(crate) struct Sums {
    /// By decimal mark, and by column.
    sums: [Vec<Sum>; 2],
    /// The same, with the cells of rows of another width where they stand: whoever summed them saw a sheet in
    /// which they stood right.
    with_misfits: [Vec<Sum>; 2],
    rows: u64,
}

/// A number with this decimal mark; the other mark and spaces group its digits.
fn read(text: &str, mark: char) -> Option<Number<'static>> {
    let group = if mark == '.' { ',' } else { '.' };
    let is_plain = |c: char| c != group && !matches!(c, '\u{A0}' | '\u{202F}' | ' ' | '\'');
    if mark == '.' && text.chars().all(is_plain) {
        return Number::decimal(text).map(Number::into_owned);
    }
    let bare: String =
        text.chars().filter(|&c| is_plain(c)).map(|c| if c == mark { '.' } else { c }).collect();
    Number::decimal(&bare).map(Number::into_owned)
}

impl Gate {
    /// The last row as a total, if it may be one; it is the first row of the block.
    pub(crate) fn ending(&self, block: &Block) -> Option<Ending> {
        if !self.table.seeks_total || !block.is_ending {
            return None;
        }
        let cells = row_at(self, block, 0);
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
        if !key_says_so || key.is_empty() && !is_named {
            return None;
        }
        let filled = cells.iter().enumerate().filter(|(_, cell)| !cell.is_empty() && !is_total_word(cell));
        let mut numbers = Vec::new();
        let mut others = 0;
        for (column, cell) in filled {
            if MARKS.iter().any(|mark| read(cell, *mark).is_some()) {
                numbers.push((column, cell.clone()));
            } else {
                others += 1;
            }
        }
        // Without the word, a record that lacks its key must not be taken for a total.
        let is_plain =
            others == 0 && numbers.iter().any(|(_, text)| text.contains(|c: char| ('1'..='9').contains(&c)));
        (!numbers.is_empty() && (is_named || is_plain)).then_some(Ending { numbers, is_named })
    }

    /// Whether the last row, which begins the block, may be a total.
    #[must_use]
    pub fn may_be_total(&self, block: &Block) -> bool {
        self.ending(block).is_some()
    }

    /// Adds the readable numbers of a block.
    pub(crate) fn add_up(&self, ending: &Ending, judge: &mut Judge<'_>, block: &Block, sums: &mut Sums) {
        judge.lay_out(block);
        let cells = judge.cells();
        sums.rows += cells.len() as u64;
        let misfits = cells.misfits.iter().filter(|misfit| misfit.judged.is_none());
        let misfits: Vec<_> = misfits.map(|misfit| row_at(self, block, misfit.start as usize)).collect();
        let readings = MARKS.iter().zip(&mut sums.sums).zip(&mut sums.with_misfits);
        for ((mark, sums), with_misfits) in readings {
            for ((column, _), (sum, with_misfits)) in
                ending.numbers.iter().zip(sums.iter_mut().zip(with_misfits))
            {
                for row in 0..cells.len() {
                    let (start, end) = cells.cell(row, *column);
                    let raw = block.buffer.get(start..end).unwrap_or_default();
                    let Ok(text) = text_of(raw, self.table.dialect) else { continue };
                    if let Some(number) = read(text.trim(), *mark) {
                        sum.add(&number);
                        with_misfits.add(&number);
                    }
                }
                let cells = misfits.iter().filter_map(|row| read(row.get(*column)?, *mark));
                cells.for_each(|number| with_misfits.add(&number));
            }
        }
    }

    /// What is said of a total that was left out.
    pub(crate) fn total_row(&self, block: &Block) -> Finding {
        let entry = entry(Code::TotalRow);
        let message = "the last row sums the rows above it; it is no record and was left out".to_owned();
        let mut finding = Finding::new(Code::TotalRow, entry.level, message);
        finding.row = Some(block.first_row);
        finding.line = Some(block.first_line);
        self.table.placed(finding)
    }
}

impl Ending {
    /// Sums to be added up.
    pub(crate) fn sums(&self) -> Sums {
        let none = || MARKS.map(|_| self.numbers.iter().map(|_| Sum::default()).collect());
        Sums { sums: none(), with_misfits: none(), rows: 0 }
    }

    /// Whether the row is the total.
    pub(crate) fn is_total(&self, sums: &Sums) -> bool {
        let enough = sums.rows >= 2 || self.is_named && sums.rows >= 1;
        let fits = |(mark, sums): (&char, &Vec<Sum>)| {
            let mut pairs = self.numbers.iter().zip(sums);
            pairs.all(|((_, text), sum)| read(text, *mark).is_some_and(|number| sum.is(&number)))
        };
        enough && (MARKS.iter().zip(&sums.sums).any(fits) || MARKS.iter().zip(&sums.with_misfits).any(fits))
    }
}

/// An exact sum: whole numbers of the last digit, and how many digits stand after the point.
#[derive(Debug, Default)]
struct Sum {
    /// Nothing when it grew beyond all bounds.
    sum: Option<i128>,
    after: u32,
    is_begun: bool,
}

impl Sum {
    fn add(&mut self, number: &Number<'_>) {
        if !self.is_begun {
            (self.is_begun, self.sum) = (true, Some(0));
        }
        let after = u32::try_from(number.digits().1).unwrap_or(u32::MAX);
        if after > self.after {
            self.sum = self.sum.and_then(|sum| scaled_up(sum, after - self.after));
            self.after = after;
        }
        self.sum = self.sum.and_then(|sum| sum.checked_add(self.of(number)?));
    }

    /// The number in whole numbers of the last digit.
    fn of(&self, number: &Number<'_>) -> Option<i128> {
        let after = u32::try_from(number.digits().1).ok()?;
        let digits: i128 = number.to_string().replace('.', "").parse().ok()?;
        scaled_up(digits, self.after.checked_sub(after)?)
    }

    fn is(&self, number: &Number<'_>) -> bool {
        self.sum.is_some_and(|sum| self.of(number) == Some(sum))
    }
}

fn scaled_up(number: i128, digits: u32) -> Option<i128> {
    number.checked_mul(10_i128.checked_pow(digits)?)
}

/// The trimmed texts of the row of a block that begins there, whatever its width.
fn row_at(gate: &Gate, block: &Block, start: usize) -> Vec<String> {
    let dialect = gate.table.dialect;
    let mut ends = Vec::new();
    walk_row(block.content(), start, dialect, |end| ends.push(end), |_| ());
    let mut from = start;
    let mut cell = |end: usize| {
        let raw = block.content().get(from..end).unwrap_or_default();
        from = end + 1;
        let text = text_of(raw.strip_suffix(b"\r").unwrap_or(raw), dialect);
        text.map(|text| text.trim().to_owned()).unwrap_or_else(|_| "\u{FFFD}".to_owned())
    };
    ends.into_iter().map(&mut cell).collect()
}

/// Words for a total, in the languages spreadsheets are kept in.
const TOTALS: [&str; 28] = [
    "total",
    "totals",
    "totaal",
    "totale",
    "totali",
    "totales",
    "totaux",
    "totais",
    "toplam",
    "sum",
    "sums",
    "summe",
    "summa",
    "somme",
    "suma",
    "soma",
    "gesamt",
    "gesamtsumme",
    "insgesamt",
    "razem",
    "celkem",
    "összesen",
    "yhteensä",
    "итого",
    "всего",
    "σύνολο",
    "合計",
    "總計",
];

/// Whether a cell is a word for a total, alone or with another beside it (`Grand total`, `Total:`).
fn is_total_word(cell: &str) -> bool {
    let lower = cell.to_lowercase();
    let mut words = lower.split(|c: char| !c.is_alphabetic()).filter(|word| !word.is_empty());
    let few = lower.split_whitespace().count() <= 3 && !lower.bytes().any(|byte| byte.is_ascii_digit());
    few && words.any(|word| TOTALS.contains(&word))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn totals_are_known_by_word_and_sums_are_exact() {
        for word in ["Total", "TOTAL:", "Grand total", "Summe", "Total général", "Итого", "Sub-total"]
        {
            assert!(is_total_word(word), "{word}");
        }
        for word in ["", "Totalled", "Total of ward 7", "Sumach", "12", "the total of all of them"] {
            assert!(!is_total_word(word), "{word}");
        }
        let mut sum = Sum::default();
        for text in ["1.25", "-0.5", "1000", "(2)", "0.3333333333"] {
            sum.add(&Number::decimal(text).unwrap());
        }
        assert!(sum.is(&Number::decimal("999.0833333333").unwrap()));
        assert!(!sum.is(&Number::decimal("999.08").unwrap()));
        sum.add(&Number::decimal(&"9".repeat(60)).unwrap());
        assert!(!sum.is(&Number::decimal("1").unwrap()));
    }
}
