//! Columns of dates by chance, against a plain count of votes: which order of day and month each written form is read in.

use super::report;
use crate::round_trips::Dice;
use crate::tool::{Folder, told};
use std::collections::{BTreeMap, BTreeSet};

const SCHEMA: &str = "format = 1\nrecord = \"t\"\nkey = [\"k\"]\n[[field]]\nname = \"k\"\nkind = \"integer\"\n[[field]]\nname = \"d\"\nkind = \"date\"\n";

/// A cell as it was made: its form, and the numbers in it.
#[derive(Debug, Clone, Copy)]
enum Written {
    Iso(u32, u32),
    /// Two numbers, the year, and the mark between them.
    Numbers(char, u32, u32),
}

impl Written {
    fn text(self) -> String {
        match self {
            Self::Iso(month, day) => format!("2024-{month:02}-{day:02}"),
            Self::Numbers(mark, one, other) => format!("{one:02}{mark}{other:02}{mark}2024"),
        }
    }
}

#[derive(Debug, Clone, PartialEq)]
enum Wanted {
    Day(String),
    Code(&'static str),
}

fn is_day(day: u32, month: u32) -> bool {
    let most = match month {
        2 => 29,
        4 | 6 | 9 | 11 => 30,
        1..=12 => 31,
        _ => 0,
    };
    (1..=most).contains(&day)
}

fn iso(day: u32, month: u32) -> Wanted {
    Wanted::Day(format!("2024-{month:02}-{day:02}"))
}

/// What each cell comes to, and whether an order was borrowed.
fn judged(cells: &[Written]) -> (Vec<Wanted>, bool) {
    // Of each form, the votes for days first and for months first.
    let mut votes: BTreeMap<char, [u32; 2]> = BTreeMap::new();
    for cell in cells {
        if let Written::Numbers(mark, one, other) = *cell {
            let own = votes.entry(mark).or_default();
            match (is_day(one, other), is_day(other, one)) {
                (true, false) => own[0] += 1,
                (false, true) => own[1] += 1,
                _ => {}
            }
        }
    }
    let decided = |[days, months]: [u32; 2]| match () {
        () if days > 0 && days >= 20 * months => Some(true),
        () if months > 0 && months >= 20 * days => Some(false),
        () => None,
    };
    let spoken: BTreeSet<Option<bool>> =
        votes.values().filter(|own| **own != [0, 0]).map(|own| decided(*own)).collect();
    let mut borrowed = false;
    let mut wanted = Vec::new();
    for cell in cells {
        let (mark, one, other) = match *cell {
            Written::Iso(month, day) => {
                wanted.push(if is_day(day, month) {
                    iso(day, month)
                } else {
                    Wanted::Code("date-impossible")
                });
                continue;
            }
            Written::Numbers(mark, one, other) => (mark, one, other),
        };
        let own = votes[&mark];
        let days_first = match spoken.len() {
            // Nobody of its form speaks, and all who speak say the same.
            1 if own == [0, 0] => *spoken.first().unwrap(),
            _ => decided(own),
        };
        wanted.push(match (is_day(one, other), is_day(other, one), days_first) {
            (true, true, _) if one == other => iso(one, one),
            (true, true, Some(true)) => iso(one, other),
            (true, true, Some(false)) => iso(other, one),
            (true, true, None) => Wanted::Code("date-unclear"),
            (true, false, Some(true) | None) => iso(one, other),
            (false, true, Some(false) | None) => iso(other, one),
            (true, false, _) | (false, true, _) => Wanted::Code("date-bad"),
            (false, false, _) => Wanted::Code("date-impossible"),
        });
        borrowed |=
            own == [0, 0] && days_first.is_some() && is_day(one, other) && is_day(other, one) && one != other;
    }
    (wanted, borrowed)
}

#[test]
fn columns_of_dates_are_read_by_their_votes() {
    let mut dice = Dice(0x00DA_7E50_F0DD);
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    let mut seen = BTreeSet::new();
    for turn in 0..120 {
        let marks: &[char] = dice.of(&[&['/'][..], &['/', '.'], &['/', '.', '-']]);
        // Most columns lean to one side; some of their cells do not.
        let lean = dice.below(3);
        let length = dice.of(&[3, 8, 60]);
        let cells: Vec<Written> = (0..length)
            .map(|_| {
                let (low, high) = (1 + dice.below(12), 13 + dice.below(19));
                let mark = dice.of(marks);
                let number = |number: usize| u32::try_from(number).unwrap();
                match (dice.below(40), lean) {
                    (0, _) => Written::Iso(number(low), number(high)),
                    (1, _) => Written::Numbers(mark, number(high), number(high)),
                    (2, _) | (3..=20, 0) => Written::Numbers(mark, number(high), number(low)),
                    (3, _) | (4..=20, 1) => Written::Numbers(mark, number(low), number(high)),
                    _ => Written::Numbers(mark, number(low), 1 + number(dice.below(12))),
                }
            })
            .collect();
        let mut table = "k,d\n".to_owned();
        (0..)
            .zip(&cells)
            .for_each(|(row, cell): (u32, _)| table.push_str(&format!("{row},{}\n", cell.text())));
        folder.write("table.csv", &table).write("ready.csv", "k,d\n");
        let found = report(&folder, "table.csv --ready ready.csv");
        let ready: BTreeMap<String, String> = super::records(&folder.read("ready.csv"))
            .into_iter()
            .map(|row| (row[0].clone(), row[1].clone()))
            .collect();
        let (wanted, borrowed) = judged(&cells);
        for (row, wanted) in wanted.iter().enumerate() {
            let place = format!(" {} B d", row + 2);
            let codes = || told(&found).into_iter().filter(|told| told.ends_with(&place)).collect::<Vec<_>>();
            let got = match ready.get(&row.to_string()) {
                Some(day) => Wanted::Day(day.clone()),
                None => Wanted::Code(
                    codes()
                        .first()
                        .and_then(|told| told.split(' ').next().map(str::to_owned))
                        .unwrap_or_default()
                        .leak(),
                ),
            };
            assert_eq!(got, *wanted, "turn {turn}, {}\n{table}", cells[row].text());
            seen.insert(match wanted {
                Wanted::Day(_) => "",
                Wanted::Code(code) => code,
            });
        }
        let is_told = told(&found).iter().any(|told| told.starts_with("date-order-borrowed"));
        assert_eq!(is_told, borrowed, "turn {turn}\n{table}");
    }
    assert_eq!(seen.len(), 4, "{seen:?}");
}
