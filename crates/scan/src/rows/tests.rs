//! Masks against the plain machine, on every kind of lanes that this processor has.

use super::*;
use crate::lanes::on_each_kind;
use crate::oddities::Oddities;
use proptest::prelude::*;
use std::cell::RefCell;

type Cells = (Vec<u32>, Vec<u32>);

/// The rows and cells of the whole rows in `text`, by the plain machine alone.
fn plainly(text: &[u8], dialect: Dialect) -> (Cut, Cells) {
    let (mut ends, mut strays, mut found) = (Vec::new(), Vec::new(), Cut::default());
    loop {
        let first = ends.len();
        let (mut row_ends, mut row_strays) = (Vec::new(), Vec::new());
        let walk = walk_row(
            text,
            found.end,
            dialect,
            |at| row_ends.push(at as u32),
            |cell| {
                row_strays.push((first + cell) as u32);
            },
        );
        let RowWalk::Whole { end, .. } = walk else { break };
        found.lines += text[found.end..end].iter().filter(|&&byte| byte == b'\n').count() as u64;
        found.rows += 1;
        found.end = end;
        ends.append(&mut row_ends);
        strays.append(&mut row_strays);
    }
    (found, (ends, strays))
}

/// What the masks find on every kind of lanes; whole rows alone, and with what follows them.
fn by_masks(text: &[u8], dialect: Dialect) -> Vec<(Cut, Cells)> {
    let mut buffer = text.to_vec();
    buffer.resize(text.len() + PADDING, 0);
    let (len, buffer) = (text.len(), &buffer[..]);
    let walk = |len| Walk::new(buffer, len, dialect);
    let mut found = Vec::new();
    for cut in on_each_kind(dialect, || WalkTask { walk: walk(len), listing: () }) {
        for len in [len, cut.end] {
            let mut lists: Vec<_> = (0..4).map(|_| RowIndex::default()).collect();
            let cuts = {
                let free = RefCell::new(lists.iter_mut());
                on_each_kind(dialect, || {
                    let into = free.borrow_mut().next().unwrap();
                    into.begin(len);
                    WalkTask { walk: walk(len), listing: into }
                })
            };
            for (again, mut rows) in cuts.into_iter().zip(lists) {
                rows.shorten(again.end);
                assert_eq!(again, cut);
                // What follows the whole rows may count, too; so may spaces in two steps that were taken twice.
                let odd = rows.oddities;
                let of = |bytes: &[u8]| {
                    let mut odd = Oddities::default();
                    odd.note(bytes, dialect.delimiter);
                    odd
                };
                let (least, most) = (of(&text[..again.end]), of(&text[..len]));
                assert_eq!(least.join(odd), odd, "{:?}", String::from_utf8_lossy(text));
                let most = Oddities { doubled_space: true, ..most };
                assert_eq!(most.join(odd), most, "{:?}", String::from_utf8_lossy(text));
                found.push((again, (rows.ends().to_vec(), rows.strays.clone())));
            }
        }
    }
    found
}

fn same(text: &[u8], dialect: Dialect) {
    let plain = plainly(text, dialect);
    for found in by_masks(text, dialect) {
        assert_eq!(found, plain, "{:?}", String::from_utf8_lossy(text));
    }
}

#[test]
fn quotes_are_resolved_as_the_plain_machine_does_it() {
    for text in [
        "a,b\n1,2\n",
        "a,\"b,\n\"\"c\"\"\",d\r\n\"\",\"\"\"\"\r\n",
        "5\" pipe,\"sound\"\n\"a\"b\"c,\",x\n",
        "\"never closed,\n1,2\n",
        "\n\n,,\n\"a\"\r\nb",
        "\"a\" ,\"b\"\r,c\n",
    ] {
        same(text.as_bytes(), Dialect::default());
    }
}

#[test]
fn a_stray_quote_at_every_border_of_a_step_spoils_its_own_row_only() {
    for before in 55..75 {
        let text = format!("{},5\"x,y\n\"q,\n\"\"r\",z\n{}\n", "k".repeat(before), "1,2,3\n".repeat(40));
        same(text.as_bytes(), Dialect::default());
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 600, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn any_bytes_split_alike(text in proptest::collection::vec(
        prop_oneof![8 => Just(b'a'), 3 => Just(b','), 3 => Just(b'"'), 2 => Just(b'\n'), 1 => Just(b'\r'),
                    1 => any::<u8>()], 0..400)) {
        same(&text, Dialect::default());
    }

    #[test]
    fn well_formed_tables_split_alike(cells in proptest::collection::vec("[a-z ;\n\"]{0,12}", 1..80)) {
        let text: String = cells.iter().enumerate().map(|(i, cell)| {
            let quoted = format!("\"{}\"", cell.replace('"', "\"\""));
            let plain = !cell.contains([';', '"', '\n']);
            format!("{}{}", if plain && i % 3 > 0 { cell.clone() } else { quoted }, if i % 7 == 6 { "\r\n" } else { ";" })
        }).collect();
        same(text.as_bytes(), Dialect { delimiter: b';', ..Dialect::default() });
    }
}
