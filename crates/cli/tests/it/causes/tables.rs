//! Sound tables of four trades, made from a seed.

/// A small generator of numbers (the constants of MMIX by Donald Knuth).
#[derive(Debug, Clone)]
pub(crate) struct Dice(u64);

impl Dice {
    pub(crate) fn new(seed: u64) -> Self {
        let mut dice = Self(seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) ^ 0x1234_5678_9ABC_DEF1);
        dice.below(2);
        dice.below(2);
        dice
    }

    pub(crate) fn below(&mut self, end: usize) -> usize {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        ((self.0 >> 33) as usize) % end.max(1)
    }

    pub(crate) fn of<'a, T>(&mut self, all: &'a [T]) -> &'a T {
        &all[self.below(all.len())]
    }

    /// So many different rows.
    pub(crate) fn rows(&mut self, count: usize, end: usize) -> Vec<usize> {
        let mut rows: Vec<usize> = (0..end).collect();
        for at in 0..count.min(end) {
            let other = at + self.below(end - at);
            rows.swap(at, other);
        }
        rows.truncate(count);
        rows.sort_unstable();
        rows
    }
}

/// The fields of every trade, by what they are: their columns.
pub(crate) const KEY: usize = 0;
pub(crate) const GROUP: usize = 1;
pub(crate) const LISTED: usize = 2;
pub(crate) const SEVERAL: usize = 3;
pub(crate) const FLAG: usize = 4;
pub(crate) const AMOUNT: usize = 5;
pub(crate) const DAY: usize = 6;
pub(crate) const CODE: usize = 7;
pub(crate) const NOTE: usize = 8;
pub(crate) const SENDER: usize = 9;
pub(crate) const SITE: usize = 10;
pub(crate) const WIDTH: usize = 11;

/// A trade: names of fields and their words.
pub(crate) struct Trade {
    pub(crate) names: [&'static str; WIDTH],
    listed: &'static [(&'static str, &'static str)],
    several: &'static [&'static str],
    groups: &'static [&'static str],
    notes: &'static [&'static str],
    senders: &'static [&'static str],
    pub(crate) unit: &'static str,
}

pub(crate) const TRADES: [Trade; 4] = [
    Trade {
        names: [
            "tag",
            "ward",
            "species",
            "hazards",
            "protected",
            "girth",
            "planted",
            "plot",
            "remark",
            "surveyor",
            "site",
        ],
        listed: &[
            ("BET-PEN", "Silver birch"),
            ("QUE-ROB", "English oak"),
            ("TIL-COR", "Small-leaved lime"),
            ("ACE-PLA", "Norway maple"),
        ],
        several: &["DECAY", "LEANS", "WIRES", "SPLIT"],
        groups: &["Ward 3", "Ward 5", "Ward 7", "Ward 9"],
        notes: &["by the gate", "near the café", "leans over the path", "replanted after the storm", ""],
        senders: &["Ada Quill", "Bo Ferrant", "Cy Marlow", "Di Otterly"],
        unit: "cm",
    },
    Trade {
        names: [
            "article",
            "shelf",
            "material",
            "labels",
            "stocked",
            "price",
            "listed_on",
            "barcode",
            "text",
            "buyer",
            "store",
        ],
        listed: &[
            ("COTTON", "Cotton twill"),
            ("LINEN", "Washed linen"),
            ("WOOL", "Merino wool"),
            ("SILK", "Mulberry silk"),
        ],
        several: &["ORGANIC", "WASHABLE", "RECYCLED", "HANDMADE"],
        groups: &["Shelf A", "Shelf B", "Shelf C"],
        notes: &["déjà vu pattern", "wide cut", "two pockets", "sold as a set", ""],
        senders: &["Eve Harrow", "Fay Linden", "Gil Norby"],
        unit: "EUR/m",
    },
    Trade {
        names: [
            "member", "branch", "standing", "offices", "pays", "fee", "joined", "postcode", "note", "clerk",
            "district",
        ],
        listed: &[
            ("FULL", "Full member"),
            ("YOUTH", "Youth member"),
            ("HONORARY", "Honorary member"),
            ("PAUSED", "Membership paused"),
        ],
        several: &["CHAIR", "TREASURER", "LIBRARIAN", "AUDITOR"],
        groups: &["North branch", "South branch", "Lakeside"],
        notes: &["speaks português", "wants paper letters", "moved in spring", ""],
        senders: &["Hal Merrow", "Ivy Tarn", "Jo Petrel"],
        unit: "pts",
    },
    Trade {
        names: [
            "sample",
            "campaign",
            "matrix",
            "tests",
            "filtered",
            "volume",
            "taken",
            "bottle",
            "observation",
            "chemist",
            "station",
        ],
        listed: &[
            ("RIVER", "River water"),
            ("GROUND", "Ground water"),
            ("SEDIMENT", "Wet sediment"),
            ("EFFLUENT", "Plant effluent"),
        ],
        several: &["NITRATE", "METALS", "TURBIDITY", "PHOSPHATE"],
        groups: &["Spring run", "Autumn run"],
        notes: &["smells of résine", "cloudy", "taken at the weir", "ice on the bank", ""],
        senders: &["Kim Sedge", "Lou Brack", "Moss Fenn"],
        unit: "ml",
    },
];

/// A table with its record schema.
#[derive(Debug, Clone)]
pub(crate) struct Table {
    pub(crate) headings: Vec<String>,
    pub(crate) rows: Vec<Vec<String>>,
    pub(crate) schema: String,
    /// Lines below the rows that are not written as cells.
    pub(crate) raw: std::collections::BTreeMap<usize, String>,
}

impl Trade {
    /// A sound table of so many rows.
    pub(crate) fn table(&self, dice: &mut Dice, count: usize) -> Table {
        let rows = (0..count).map(|number| self.row(dice, number)).collect();
        let headings = self.names.iter().map(|name| (*name).to_owned()).collect();
        Table { headings, rows, schema: self.schema(), raw: std::collections::BTreeMap::new() }
    }

    fn row(&self, dice: &mut Dice, number: usize) -> Vec<String> {
        let several = dice.rows(dice.clone().below(3), self.several.len());
        let several: Vec<&str> = several.into_iter().map(|at| self.several[at]).collect();
        vec![
            format!("K-{:05}", number * 7 + 13),
            (*dice.of(self.groups)).to_owned(),
            dice.of(self.listed).0.to_owned(),
            several.join(";"),
            (*dice.of(&["true", "false"])).to_owned(),
            format!("{}.{}", 10 + dice.below(300), 1 + dice.below(9)),
            format!("{:02}/{:02}/{:04}", 1 + dice.below(12), 1 + dice.below(28), 2001 + dice.below(24)),
            format!("{:05}", 1 + dice.below(9_000)),
            (*dice.of(self.notes)).to_owned(),
            (*dice.of(self.senders)).to_owned(),
            format!("S{:02}", 1 + dice.below(8)),
        ]
    }

    fn schema(&self) -> String {
        let [key, group, listed, several, flag, amount, day, code, note, sender, site] = self.names;
        let values = |all: Vec<String>| all.join(", ");
        let list = values(
            self.listed
                .iter()
                .map(|one| format!("{{ code = \"{}\", label = \"{}\" }}", one.0, one.1))
                .collect(),
        );
        let tags = values(self.several.iter().map(|one| format!("{{ code = \"{one}\" }}")).collect());
        let sites = values((1..9).map(|one| format!("{{ code = \"S{one:02}\" }}")).collect());
        format!(
            r#"format = 1
record = "thing"
key = ["{key}"]
[[field]]
name = "{key}"
kind = "text"
pattern = "K-[0-9]{{5}}"
[[field]]
name = "{group}"
kind = "text"
required = true
[[field]]
name = "{listed}"
kind = "picklist"
picklist = "listed"
required = true
[[field]]
name = "{several}"
kind = "picklist"
picklist = "several"
many = {{ separator = ";" }}
[[field]]
name = "{flag}"
kind = "boolean"
[[field]]
name = "{amount}"
kind = "decimal"
required = true
range = {{ min = 0, max = 100000 }}
[[field]]
name = "{day}"
kind = "date"
range = {{ min = "2000-01-01", max = "today" }}
dates = ["MM/dd/yyyy"]
[[field]]
name = "{code}"
kind = "text"
pattern = "[0-9]{{5}}"
[[field]]
name = "{note}"
kind = "text"
[[field]]
name = "{sender}"
kind = "text"
[[field]]
name = "{site}"
kind = "picklist"
picklist = "sites"
[picklist.listed]
values = [{list}]
[picklist.several]
values = [{tags}]
[picklist.sites]
values = [{sites}]
"#
        )
    }
}

impl Table {
    /// The table as text.
    pub(crate) fn text(&self) -> String {
        let quote = |cell: &String| match cell.contains([',', '"', '\n']) {
            true => format!("\"{}\"", cell.replace('"', "\"\"")),
            false => cell.clone(),
        };
        let line = |row: &Vec<String>| row.iter().map(quote).collect::<Vec<_>>().join(",");
        let mut lines = vec![line(&self.headings)];
        for (number, row) in self.rows.iter().enumerate() {
            lines.push(self.raw.get(&number).cloned().unwrap_or_else(|| line(row)));
        }
        lines.join("\n") + "\n"
    }
}
