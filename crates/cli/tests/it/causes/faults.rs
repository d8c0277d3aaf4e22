//! Faults as senders make them, each spoiling a sound table, and the cause that is to be told.

use super::tables::{
    AMOUNT, CODE, DAY, Dice, FLAG, GROUP, KEY, LISTED, NOTE, SENDER, SEVERAL, SITE, Table, Trade,
};

/// A fault: the cause that explains it, the columns that it takes for itself, and how it is made.
pub(crate) struct Fault {
    pub(crate) cause: &'static str,
    pub(crate) columns: &'static [usize],
    /// Whether it adds rows: those come last.
    pub(crate) adds_rows: bool,
    pub(crate) spoil: fn(&mut Table, &mut Dice, &Trade),
}

const fn fault(
    cause: &'static str,
    columns: &'static [usize],
    spoil: fn(&mut Table, &mut Dice, &Trade),
) -> Fault {
    Fault { cause, columns, adds_rows: false, spoil }
}

pub(crate) const FAULTS: [Fault; 18] = [
    fault("words-off-list", &[LISTED], |table, dice, _| {
        for row in some(table, dice) {
            let word = &mut table.rows[row][LISTED];
            let at = 1 + dice.below(word.len() - 2);
            word.remove(at);
        }
    }),
    fault("yes-no-words", &[FLAG], |table, dice, _| {
        let [yes, no] = *dice.of(&[["ja", "nein"], ["oui", "non"], ["sí", "no"], ["tak", "nie"]]);
        each(table, FLAG, |cell| *cell = if cell == "true" { yes.into() } else { no.into() });
    }),
    fault("leading-zeros", &[CODE], |table, _, _| {
        each(table, CODE, |cell| *cell = cell.trim_start_matches('0').to_owned());
    }),
    fault("stray-characters", &[NOTE], |table, dice, _| {
        for row in some(table, dice) {
            table.rows[row][NOTE] = format!("{}\u{a0} seen twice\u{200b}", table.rows[row][NOTE]);
        }
    }),
    fault("separator-other", &[SEVERAL], |table, dice, trade| {
        let _ = trade;
        for row in some(table, dice) {
            let both = table.rows.iter().map(|row| row[SEVERAL].clone()).find(|cell| cell.contains(';'));
            table.rows[row][SEVERAL] = both.unwrap_or_default().replace(';', " | ");
        }
    }),
    fault("columns-swapped", &[AMOUNT, DAY], |table, _, _| table.headings.swap(AMOUNT, DAY)),
    fault("cells-shifted", &[NOTE], |table, dice, _| {
        for row in some(table, dice) {
            let mut cells = table.rows[row].clone();
            cells[NOTE] = "old, but sound".to_owned();
            table.raw.insert(row, cells.join(","));
        }
    }),
    fault("text-decoded-twice", &[NOTE], |table, dice, _| {
        for row in some(table, dice) {
            table.rows[row][NOTE] = "prÃ¨s du cafÃ©".to_owned();
        }
    }),
    fault("keys-dragged", &[SITE], |table, dice, _| {
        let (first, count) = (dice.below(table.rows.len() - 20), 10 + dice.below(10));
        for number in 0..count {
            table.rows[first + number][SITE] = format!("S{:02}", 8 + number);
        }
    }),
    fault("dates-moved", &[DAY], |table, dice, _| {
        for row in some(table, dice) {
            table.rows[row][DAY].replace_range(6..8, "19");
        }
    }),
    fault("unit-in-cells", &[AMOUNT], |table, dice, trade| {
        for row in some(table, dice) {
            table.rows[row][AMOUNT] += &format!(" {}", trade.unit);
        }
    }),
    fault("decimal-mark-other", &[AMOUNT], |table, dice, _| {
        let few = dice.rows(3, table.rows.len());
        for row in few {
            table.rows[row][AMOUNT] = table.rows[row][AMOUNT].replace('.', ",");
        }
    }),
    fault("date-form", &[DAY], |table, _, _| {
        each(table, DAY, |cell| *cell = format!("{}.{}.{}", &cell[3..5], &cell[..2], &cell[6..]));
    }),
    fault("blank-below-groups", &[GROUP], |table, _, _| {
        table.rows.sort_by_key(|row| row[GROUP].clone());
        let mut above = String::new();
        each(table, GROUP, |cell| match *cell == above {
            true => cell.clear(),
            false => above.clone_from(cell),
        });
    }),
    fault("one-value", &[AMOUNT, SENDER], |table, _, _| {
        // One of at least three senders leaves a needed number out, mostly.
        let sender = table.rows[0][SENDER].clone();
        let mut count = 0;
        for row in table.rows.iter_mut().filter(|row| row[SENDER] == sender) {
            count += 1;
            if count % 8 != 0 {
                row[AMOUNT].clear();
            }
        }
    }),
    Fault {
        cause: "headings-repeated",
        columns: &[],
        adds_rows: true,
        spoil: |table, dice, _| {
            for _ in 0..1 + dice.below(3) {
                let at = 5 + dice.below(table.rows.len() - 10);
                insert(table, at, vec![table.headings.clone()]);
            }
        },
    },
    Fault {
        cause: "rows-not-records",
        columns: &[],
        adds_rows: true,
        spoil: |table, dice, _| {
            for number in 0..2 + dice.below(3) {
                let at = 5 + dice.below(table.rows.len() - 10);
                let mut row = vec![String::new(); table.headings.len()];
                row[KEY] = format!("Total {}", ["one", "two", "three", "four"][number]);
                row[AMOUNT] = "1234.5".to_owned();
                insert(table, at, vec![row]);
            }
        },
    },
    Fault {
        cause: "rows-pasted-twice",
        columns: &[KEY],
        adds_rows: true,
        spoil: |table, dice, _| {
            let count = 5 + dice.below(15);
            let from = dice.below(table.rows.len() - count - 2);
            let block: Vec<_> = (from..from + count).map(|row| table.rows[row].clone()).collect();
            if (from..from + count).all(|row| !table.raw.contains_key(&row)) {
                let end = table.rows.len() - 1;
                insert(table, end, block);
            } else {
                let block = table.rows[..5].to_vec();
                table.raw.retain(|row, _| *row >= 5);
                let end = table.rows.len() - 1;
                insert(table, end, block);
            }
        },
    },
];

/// Some rows of the table, five at least.
fn some(table: &Table, dice: &mut Dice) -> Vec<usize> {
    let count = 5 + dice.below(table.rows.len() / 5);
    dice.rows(count, table.rows.len())
}

fn each(table: &mut Table, column: usize, mut change: impl FnMut(&mut String)) {
    table.rows.iter_mut().for_each(|row| change(&mut row[column]));
}

fn insert(table: &mut Table, at: usize, rows: Vec<Vec<String>>) {
    let count = rows.len();
    let raw = std::mem::take(&mut table.raw);
    table.raw =
        raw.into_iter().map(|(row, text)| (if row >= at { row + count } else { row }, text)).collect();
    table.rows.splice(at..at, rows);
}
