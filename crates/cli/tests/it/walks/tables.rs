//! Tables as people of several trades and countries write them, and what chance does to them.

use crate::round_trips::Dice;
use rust_xlsxwriter::{Format, Formula, Workbook};
use std::path::Path;

/// What the cells of a column hold.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Holds {
    Number(&'static str),
    Name,
    Day,
    SomeDay,
    Amount,
    Count,
    Measure,
    Share,
    Truth,
    State,
    Mail,
    Note,
    Tags,
    Time,
    Postcode,
}

use Holds::*;

/// A trade: the headings of its table, and what stands below them.
const TRADES: &[&[(&str, Holds)]] = &[
    &[
        ("Hive no", Number("H-")),
        ("Keeper", Name),
        ("Set up on", Day),
        ("Queens", Count),
        ("Honey kg", Measure),
        ("Treated", Truth),
        ("State", State),
        ("Note", Note),
    ],
    &[
        ("Bokningsnr", Number("B")),
        ("Gäst", Name),
        ("Ankomst", Day),
        ("Nätter", Count),
        ("Pris", Amount),
        ("Betald", Truth),
        ("E-post", Mail),
    ],
    &[
        ("Номер пробы", Number("")),
        ("Дата", Day),
        ("Время", Time),
        ("Значение", Measure),
        ("Статус", State),
        ("Метки", Tags),
    ],
    &[
        ("Artikelnr.", Number("A-")),
        ("Bezeichnung", Name),
        ("Menge", Count),
        ("Preis", Amount),
        ("Lieferdatum", Day),
        ("Aktiv", Truth),
    ],
    &[
        ("Code", Number("G")),
        ("Nom", Name),
        ("Ouverture", Day),
        ("Fermeture", SomeDay),
        ("Part %", Share),
        ("Code postal", Postcode),
        ("Remarque", Note),
    ],
];

const NAMES: &[&str] = &[
    "Ana Conill",
    "Bořivoj Grün",
    "Dafydd O'Neill",
    "Hélène d'Arcy",
    "İpek Ekşi",
    "Łucja van der Berg",
    "Søren Müller, jun.",
    "田中 Håkansson",
];
const NOTES: &[&str] =
    &["fine", "see \"file\"", "one, two; three", "line one\nline two", "=SUM", "à revoir", "", "tab\there"];
const STATES: &[&str] = &["open", "closed", "on hold", "Überprüfung"];
/// What people put where a value should stand.
const JUNK: &[&str] = &[
    "?",
    "n/a",
    "-",
    "#REF!",
    "31.02.2023",
    "12,,5",
    "1O",
    "TBC",
    "1.234.56",
    "\u{200b}",
    "０１２",
    "½",
    "99999999999",
];

/// How a table is written.
#[derive(Debug, Clone)]
pub(crate) struct Style {
    pub(crate) date: &'static str,
    comma: bool,
    group: &'static str,
    truth: (&'static str, &'static str),
    pub(crate) delimiter: &'static str,
    line_end: &'static str,
    quotes_all: bool,
    list: &'static str,
}

/// A table of a trade.
pub(crate) struct Table {
    pub(crate) columns: &'static [(&'static str, Holds)],
    pub(crate) rows: Vec<Vec<String>>,
    pub(crate) style: Style,
}

impl Style {
    fn by(dice: &mut Dice) -> Self {
        let comma = dice.below(2) == 0;
        Self {
            date: dice.of(&[
                "y-m-d",
                "d.m.y",
                "d/m/y",
                "m/d/y",
                "y/m/d",
                "d. m. y",
                "y.m.d.",
                "y年m月d日",
                "ymd",
            ]),
            comma,
            group: dice.of(if comma { &["", ".", " ", "\u{202f}"][..] } else { &["", ",", "\u{a0}", "'"] }),
            truth: dice.of(&[("yes", "no"), ("Y", "N"), ("TRUE", "FALSE"), ("ja", "nein"), ("да", "нет")]),
            delimiter: dice.of(if comma { &[";", "\t", "|"][..] } else { &[",", ";", "\t", "|"] }),
            line_end: dice.of(&["\n", "\r\n"]),
            quotes_all: dice.below(3) == 0,
            list: dice.of(&["; ", " / ", "|"]),
        }
    }

    fn day(&self, (year, month, day): (usize, usize, usize)) -> String {
        let mut text = String::new();
        for letter in self.date.chars() {
            match letter {
                'y' => text.push_str(&year.to_string()),
                'm' => text.push_str(&format!("{month:02}")),
                'd' => text.push_str(&format!("{day:02}")),
                other => text.push(other),
            }
        }
        text
    }

    /// A number of so many hundredths.
    fn number(&self, hundredths: usize, group: &str) -> String {
        let (whole, rest) = (hundredths / 100, hundredths % 100);
        let whole = if whole < 1000 {
            whole.to_string()
        } else {
            format!("{}{group}{:03}", whole / 1000, whole % 1000)
        };
        format!("{whole}{}{rest:02}", if self.comma { "," } else { "." })
    }

    fn cell(&self, holds: Holds, row: usize, dice: &mut Dice) -> String {
        let day = |dice: &mut Dice| (1950 + dice.below(70), 1 + dice.below(12), 1 + dice.below(28));
        match holds {
            Number(before) => format!("{before}{}", 1000 + row),
            Name => dice.of(NAMES).to_owned(),
            Day => self.day(day(dice)),
            SomeDay if dice.below(2) == 0 => String::new(),
            SomeDay => self.day(day(dice)),
            Amount => self.number(dice.below(900_000), self.group),
            Count => dice.below(500).to_string(),
            Measure => self.number(dice.below(9_000), ""),
            Share => format!("{} %", self.number(dice.below(10_000), "")),
            Truth => (if dice.below(2) == 0 { self.truth.0 } else { self.truth.1 }).to_owned(),
            State => dice.of(STATES).to_owned(),
            Mail => format!("{}{}@example.org", dice.of(&["ana", "b.cd", "e_f"]), dice.below(400)),
            Note => dice.of(NOTES).to_owned(),
            Tags => {
                (0..=dice.below(2)).map(|at| ["red", "old", "new"][at]).collect::<Vec<_>>().join(self.list)
            }
            Time => format!("{:02}:{:02}", dice.below(24), dice.below(60)),
            Postcode => format!("{:05}", dice.below(99_999)),
        }
    }
}

impl Table {
    pub(crate) fn by(dice: &mut Dice) -> Self {
        let (columns, style) = (dice.of(TRADES), Style::by(dice));
        let count = dice.of(&[3, 14, 110]);
        let row = |row: usize, dice: &mut Dice| {
            columns.iter().map(|(_, holds)| style.cell(*holds, row, dice)).collect()
        };
        let rows = (0..count).map(|number| row(number, dice)).collect();
        Self { columns, rows, style }
    }

    /// The same with cells spoilt, and now and then a row that stands twice, is blank or is no record.
    pub(crate) fn spoilt(&self, dice: &mut Dice) -> Self {
        let mut rows = self.rows.clone();
        for cell in rows.iter_mut().flatten() {
            match dice.below(140) {
                0 => cell.clear(),
                1 => *cell = format!(" {cell} "),
                2 => *cell = dice.of(JUNK).to_owned(),
                3 => *cell = cell.to_uppercase(),
                4 => drop(cell.pop()),
                5 => cell.push_str(dice.of(&["0", "x", " .", "\u{a0}"])),
                _ => {}
            }
        }
        let alone = |text: &str| {
            let mut row = vec![String::new(); self.columns.len()];
            row[0] = text.to_owned();
            row
        };
        match dice.below(7) {
            0 => rows.insert(dice.below(rows.len() as u64), rows[0].clone()),
            1 => rows.push(alone("")),
            2 => rows.push(alone("Total")),
            3 => rows.extend([alone("Total"), alone("Printed by the office")]),
            _ => {}
        }
        Self { columns: self.columns, rows, style: self.style.clone() }
    }

    /// As a text.
    pub(crate) fn text(&self) -> String {
        let Style { delimiter, line_end, quotes_all, .. } = self.style;
        let cell = |cell: &str| {
            let is_special = cell.contains(['"', '\n', '\r']) || cell.contains(delimiter);
            if quotes_all || is_special {
                format!("\"{}\"", cell.replace('"', "\"\""))
            } else {
                cell.to_owned()
            }
        };
        let line = |cells: Vec<String>| cells.join(delimiter) + line_end;
        let head = line(self.columns.iter().map(|(heading, _)| cell(heading)).collect());
        head + &self
            .rows
            .iter()
            .map(|row| line(row.iter().map(|text| cell(text)).collect()))
            .collect::<String>()
    }

    /// As a workbook, in which most days and numbers are stored as what they are: below a title, beside an empty column and
    /// above a sum that was never calculated, by chance.
    pub(crate) fn book(&self, path: &Path, dice: &mut Dice) {
        let mut book = Workbook::new();
        let sheet = book.add_worksheet();
        let (top, left) = (if dice.below(2) == 0 { 3 } else { 0 }, if dice.below(3) == 0 { 1 } else { 0 });
        if top > 0 {
            sheet.write_string(0, 0, "Return for 2026").unwrap();
        }
        for (at, (heading, _)) in (left..).zip(self.columns) {
            sheet.write_string(top, at, *heading).unwrap();
        }
        let day = Format::new().set_num_format(dice.of(&["yyyy-mm-dd", "dd/mm/yyyy", "d mmm yyyy"]));
        for (row, cells) in (top + 1..).zip(&self.rows) {
            for ((at, cell), (_, holds)) in (left..).zip(cells).zip(self.columns) {
                let number = || cell.replace(',', ".").parse::<f64>().ok();
                let parts: Vec<u32> =
                    cell.split(|c: char| !c.is_ascii_digit()).filter_map(|part| part.parse().ok()).collect();
                match (holds, number(), parts.as_slice()) {
                    (_, _, _) if cell.is_empty() || dice.below(12) == 0 && *holds != Day => {
                        sheet.write_string(row, at, cell).unwrap();
                    }
                    (Count | Measure | Amount, Some(number), _) if number.is_finite() => {
                        sheet.write_number(row, at, number).unwrap();
                    }
                    (Day | SomeDay, _, [year @ 1900..=2100, month @ 1..=12, day_of @ 1..=28]) => {
                        let serial = rust_xlsxwriter::ExcelDateTime::from_ymd(
                            *year as u16,
                            *month as u8,
                            *day_of as u8,
                        )
                        .unwrap();
                        sheet.write_datetime_with_format(row, at, &serial, &day).unwrap();
                    }
                    _ => {
                        sheet.write_string(row, at, cell).unwrap();
                    }
                }
            }
        }
        if dice.below(3) == 0
            && let Some(count) = self.columns.iter().position(|(_, holds)| *holds == Count)
        {
            let below = top + 1 + self.rows.len() as u32;
            sheet.write_string(below, left, "Total").unwrap();
            sheet
                .write_formula(below, left + count as u16, Formula::new("=SUM(A1:A2)").set_result(""))
                .unwrap();
        }
        book.save(path).unwrap();
    }
}
