//! Columns of numbers by chance, whose marks nobody states: a plain count of what cells fit point or comma alone.

use super::{records, report, table};
use crate::round_trips::Dice;
use crate::tool::{Folder, told};
use std::collections::{BTreeMap, BTreeSet};

const SCHEMA: &str = "format = 1\nrecord = \"t\"\nkey = [\"k\"]\n[[field]]\nname = \"k\"\nkind = \"integer\"\n\
    [[field]]\nname = \"n\"\nkind = \"decimal\"\n";

/// What a cell says in each of the two notations: with a point before the decimals, and with a comma.
fn readings(text: &str) -> [Option<String>; 2] {
    ['.', ','].map(|mark| {
        let group = if mark == '.' { ',' } else { '.' };
        let (whole, part) = text.split_once(mark).unwrap_or((text, ""));
        let groups: Vec<&str> = whole.split(group).collect();
        let is_digits = |text: &str| text.chars().all(|c| c.is_ascii_digit());
        let fits = groups.len() == 1
            || groups[1..].iter().all(|group| group.len() == 3)
                && (1..=3).contains(&groups[0].len())
                && !groups[0].starts_with('0');
        let sound = fits && is_digits(part) && groups.iter().all(|group| is_digits(group));
        sound.then(|| {
            let whole = groups.concat();
            let whole = whole.trim_start_matches('0');
            let part = part.trim_end_matches('0');
            let whole = if whole.is_empty() { "0" } else { whole };
            if part.is_empty() { whole.to_owned() } else { format!("{whole}.{part}") }
        })
    })
}

/// The value of each cell, or its code.
fn judged(cells: &[String]) -> Vec<Result<String, &'static str>> {
    let read: Vec<[Option<String>; 2]> = cells.iter().map(|cell| readings(cell)).collect();
    let votes =
        |own: usize| read.iter().filter(|cell| cell[own].is_some() && cell[1 - own].is_none()).count();
    let (points, commas) = (votes(0), votes(1));
    let decided = match () {
        () if points > 0 && points >= 20 * commas => Some(0),
        () if commas > 0 && commas >= 20 * points => Some(1),
        () => None,
    };
    let judge = |cell: &[Option<String>; 2]| match (cell, decided) {
        ([None, None], _) => Err("decimal-bad"),
        ([Some(one), Some(other)], _) if one == other => Ok(one.clone()),
        ([point, comma], Some(way)) => [point, comma][way].clone().ok_or("decimal-mark"),
        // Nobody decides: a cell that fits one notation alone is read in it.
        ([Some(value), None] | [None, Some(value)], None) => Ok(value.clone()),
        ([Some(_), Some(_)], None) => Err("number-unclear"),
    };
    read.iter().map(judge).collect()
}

#[test]
fn columns_of_numbers_are_read_by_their_votes() {
    let mut dice = Dice(0x00DE_C1A1);
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    let mut seen = BTreeMap::new();
    for turn in 0..120 {
        let lean = dice.below(3);
        let length = dice.of(&[4, 9, 45]);
        let mut cells: Vec<String> = (0..length)
            .map(|_| {
                let (whole, part) = (1 + dice.below(900), dice.of(&["5", "25", "7500", "1234"]));
                let mark = match (dice.below(40), lean) {
                    (0, _) => dice.of(&[".", ","]),
                    (_, 0) => ".",
                    (_, 1) => ",",
                    _ => dice.of(&[".", ","]),
                };
                match dice.below(20) {
                    0 => "tall".to_owned(),
                    1 => format!("{whole}.{whole}.5"),
                    2..=6 => whole.to_string(),
                    7 => format!(
                        "{whole}{}{:03}{mark}{part}",
                        if mark == "." { "," } else { "." },
                        dice.below(1000)
                    ),
                    _ => format!("{whole}{mark}{part}"),
                }
            })
            .collect();
        // One cell that may be thousands or decimals, where the others are enough to say which, or split.
        let sides = |cells: &[String]| -> [usize; 2] {
            [0, 1].map(|own| {
                let read = cells.iter().map(|cell| readings(cell));
                read.filter(|cell| cell[own].is_some() && cell[1 - own].is_none()).count()
            })
        };
        let [points, commas] = sides(&cells);
        if points + commas > 3 {
            cells.push(dice.of(&["1,234", "1.234", "87,500", "12.345.678"]).to_owned());
        }
        let rows: Vec<Vec<String>> =
            cells.iter().enumerate().map(|(row, cell)| vec![row.to_string(), cell.clone()]).collect();
        let text = table(["k", "n"].map(str::to_owned).into_iter(), &rows);
        folder.write("table.csv", &text).write("ready.csv", "k,n\n");
        let found = report(&folder, "table.csv --ready ready.csv");
        let ready: BTreeMap<String, String> = records(&folder.read("ready.csv"))
            .into_iter()
            .map(|row| (row[0].clone(), row[1].clone()))
            .collect();
        for (row, wanted) in judged(&cells).into_iter().enumerate() {
            let place = format!(" {} B n", row + 2);
            let codes: BTreeSet<String> = told(&found)
                .into_iter()
                .filter(|told| told.ends_with(&place))
                .filter_map(|told| told.split(' ').next().map(str::to_owned))
                .collect();
            let got = ready
                .get(&row.to_string())
                .cloned()
                .ok_or_else(|| codes.into_iter().next().unwrap_or_default());
            assert_eq!(
                got,
                wanted.clone().map_err(str::to_owned),
                "turn {turn}, {}\n{text}\n{:?}",
                cells[row],
                told(&found)
            );
            *seen.entry(wanted.err().unwrap_or("sound")).or_insert(0) += 1;
        }
    }
    assert_eq!(seen.len(), 4, "{seen:?}");
}
