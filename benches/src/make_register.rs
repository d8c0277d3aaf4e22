//! Writes the benchmark register: a CSV of 17 columns with planted faults, its record schema, and the truth:
//! how often each finding must be made in each field.
//!
//! `make-register FOLDER ROWS [clean|faulty|quoted|whole|long]` writes `register.csv`, `register.record.toml` and
//! `truth.json`. The same arguments give the same bytes. `whole` has the planted faults too; its sites are references
//! to 2,000 sites (`sites.csv`), its notes are hazards, several in a cell, and it has two rules. `long` is the same with texts of
//! up to 500 characters for streets, some of them over several lines and some with quotes.

use std::collections::BTreeMap;
use std::fs::File;
use std::io::{self, BufWriter, Write};
use std::path::Path;

const SCHEMA: &str = include_str!("register.record.toml");
const FIELDS: [&str; 17] = [
    "tag_no",
    "site_code",
    "species",
    "condition",
    "planted_on",
    "inspected_on",
    "girth_cm",
    "height_m",
    "stems",
    "protected",
    "removal_due",
    "inspector_email",
    "street",
    "notes",
    "survey_no",
    "lean_deg",
    "ownership",
];
const SPECIES: usize = 120;
/// One row in so many has a fault, which is 0.7 % of them.
const ONE_FAULTY_IN: u64 = 143;

/// A small generator of numbers (SplitMix64), so that the same seed gives the same file everywhere.
struct Random(u64);

impl Random {
    fn next(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let z = (self.0 ^ self.0 >> 30).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        let z = (z ^ z >> 27).wrapping_mul(0x94D0_49BB_1331_11EB);
        z ^ z >> 31
    }

    fn below(&mut self, n: u64) -> u64 {
        self.next() % n
    }

    fn one_of<'a>(&mut self, words: &[&'a str]) -> &'a str {
        words.get(self.below(words.len() as u64) as usize).copied().unwrap_or_default()
    }
}

type Truth = BTreeMap<String, u64>;

fn main() -> io::Result<()> {
    let arguments: Vec<String> = std::env::args().skip(1).collect();
    let [folder, rows, kind @ ..] = arguments.as_slice() else {
        return Err(io::Error::other("usage: make-register FOLDER ROWS [clean|faulty|quoted|whole|long]"));
    };
    let rows: u64 = rows.replace('_', "").parse().map_err(io::Error::other)?;
    let kind = kind.first().map_or("planted", String::as_str);
    let folder = Path::new(folder);
    std::fs::create_dir_all(folder)?;
    let (is_whole, is_long) = (kind == "whole" || kind == "long", kind == "long");
    std::fs::write(
        folder.join("register.record.toml"),
        match (is_whole, is_long) {
            (_, true) => whole_schema().replace("length = { max = 60 }", "length = { max = 520 }"),
            (true, _) => whole_schema(),
            _ => SCHEMA.to_owned(),
        },
    )?;
    if is_whole {
        let sites: String = (0..SITES).map(|n| format!("{}\n", site(n))).collect();
        std::fs::write(folder.join("sites.csv"), format!("code\n{sites}"))?;
    }
    let mut csv = BufWriter::with_capacity(1 << 20, File::create(folder.join("register.csv"))?);
    let (mut truth, mut held) = (Truth::new(), 0);
    let headings = FIELDS.join(",");
    writeln!(csv, "{}", if is_whole { headings.replace("notes", "hazards") } else { headings })?;
    let mut random = Random(0x7EE5);
    let mut line = String::new();
    for number in 0..rows {
        let mut cells = sound_row(&mut random, number);
        if is_whole {
            make_whole(&mut random, &mut cells);
        }
        if is_long && let Some(street) = cells.get_mut(at("street")) {
            lengthen(&mut random, street);
        }
        match kind {
            "clean" | "quoted" => {}
            "faulty" => {
                fault_everywhere(&mut cells, &mut truth, number);
                held += 1;
            }
            _ if number % ONE_FAULTY_IN == 17 => {
                held += u64::from(plant(&mut random, &mut cells, &mut truth, number));
            }
            _ => {}
        }
        line.clear();
        for (i, cell) in cells.iter().enumerate() {
            if i > 0 {
                line.push(',');
            }
            if kind == "quoted" || cell.contains([',', '"', '\n']) {
                line.push('"');
                line.push_str(&cell.replace('"', "\"\""));
                line.push('"');
            } else {
                line.push_str(cell);
            }
        }
        line.push('\n');
        csv.write_all(line.as_bytes())?;
    }
    csv.flush()?;
    // Each repeat holds the row that it repeats too.
    held += truth.get("key-repeated tag_no").copied().unwrap_or(0) / 2;
    let truth = serde_json::json!({ "rows": rows, "held": held, "totals": truth });
    std::fs::write(folder.join("truth.json"), serde_json::to_string_pretty(&truth)?)
}

const SITES: u64 = 2000;

fn site(n: u64) -> String {
    let letter = |n: u64| char::from(b'A' + u8::try_from(n % 26).unwrap_or(0));
    format!(
        "W{:02}-{}{}{}{}",
        n % 20 + 1,
        letter(n / 20),
        letter(n / 7),
        letter(n / 3 + 11),
        letter(n + n / 26)
    )
}

/// The schema with references, several values in a cell, and rules.
fn whole_schema() -> String {
    let site = SCHEMA.replace(
        "kind = \"text\"\nrequired = true\npattern = \"W[0-9]{2}-[A-Z]{4}\"\n\
         pattern_says = \"W, a ward of two digits, a dash and four letters\"\n",
        "kind = \"reference\"\nto = \"site\"\nrequired = true\n",
    );
    let hazards = site.replace(
        "name = \"notes\"\nkind = \"text\"\nlength = { max = 500 }\n",
        "name = \"hazards\"\nkind = \"picklist\"\npicklist = \"hazard\"\nmany = { separator = \";\", max = 4 }\n",
    );
    hazards
        + "\n[picklist.hazard]\nvalues = [{ code = \"DECAY\" }, { code = \"LEAN\" }, { code = \"ROOTS\" }, { code = \"WIRES\" }, \
           { code = \"SPLIT\" }]\n\n[[rule]]\nname = \"inspected after planting\"\nmust = \"inspected_on >= planted_on\"\n\
           [[rule]]\nname = \"poor trees are surveyed\"\nwhen = \"condition = 'P'\"\nrequire = [\"survey_no\"]\n"
}

fn make_whole(random: &mut Random, cells: &mut [String]) {
    let hazards = ["DECAY", "LEAN", "ROOTS", "WIRES", "SPLIT"];
    let from = random.below(5) as usize;
    let count = [0, 0, 0, 1, 1, 2, 3].get(random.below(7) as usize).copied().unwrap_or(0);
    let some: Vec<_> = hazards.iter().cycle().skip(from).take(count).copied().collect();
    if let Some(cell) = cells.get_mut(at("site_code")) {
        *cell = site(random.below(SITES));
    }
    if let Some(cell) = cells.get_mut(at("notes")) {
        *cell = some.join(";");
    }
}

/// The place of a field.
fn at(name: &str) -> usize {
    FIELDS.iter().position(|field| *field == name).unwrap_or(0)
}

/// Makes a street what somebody wrote who had a lot to say: mostly a few words, in one of twelve rows several lines.
fn lengthen(random: &mut Random, street: &mut String) {
    let words = [
        "opposite",
        "the",
        "old",
        "pump house",
        "behind no. 12",
        "by \"The Fold\"",
        "Café",
        "beside",
        "gate",
    ];
    let most = if random.below(12) == 0 { 500 } else { 20 + random.below(40) as usize };
    while street.len() < most {
        let part = random.one_of(&words);
        if street.len() + part.len() + 1 > 500 {
            break;
        }
        street.push(if most == 500 && random.below(20) == 0 { '\n' } else { ' ' });
        street.push_str(part);
    }
}

fn tag(number: u64) -> String {
    // Spread out, so that the keys are not in order.
    format!("HT-{:07}", number.wrapping_mul(7_368_787) % 10_000_000)
}

fn species(n: usize) -> String {
    let genus = ["ACE", "QUE", "TIL", "PLA", "FRA", "BET", "PRU", "ULM", "CAR", "FAG"];
    format!("{}-{:03}", genus.get(n % genus.len()).unwrap_or(&"ACE"), n)
}

fn sound_row(random: &mut Random, number: u64) -> Vec<String> {
    let streets =
        ["Mill Lane", "Canal Row", "Orchard Street", "Station Approach", "Upper Fold", "Tannery Walk"];
    let notes = [
        "",
        "",
        "pruned",
        "crown lifted, deadwood out",
        "leans over the path, see report",
        "said \"leave it\"",
    ];
    let ward = random.below(20) + 1;
    let year = 1900 + random.below(120);
    vec![
        tag(number),
        format!("W{:02}-{}", ward, random.one_of(&["MILL", "CANL", "ORCH", "STAT", "UPFD", "TANN"])),
        species(random.below(SPECIES as u64) as usize),
        random.one_of(&["E", "G", "F", "P", "Good", "Fair"]).to_owned(),
        format!("{year:04}-{:02}-{:02}", random.below(12) + 1, random.below(28) + 1),
        format!("202{}-{:02}-{:02}", random.below(6), random.below(12) + 1, random.below(28) + 1),
        format!("{}.{}", random.below(400) + 5, random.below(10)),
        format!("{}.{:02}", random.below(35), random.below(100)),
        (random.below(4) + 1).to_string(),
        random.one_of(&["yes", "no", "Y", "N", "true", "false"]).to_owned(),
        if random.below(10) == 0 { format!("2027-{:02}-01", random.below(12) + 1) } else { String::new() },
        format!(
            "{}.{}@ward-{ward}.harrowmere.example",
            random.one_of(&["j", "a", "k", "m"]),
            random.one_of(&["marsh", "okafor", "lindqvist"])
        ),
        format!(
            "{}{} {}",
            random.below(99) + 1,
            if random.below(8) == 0 { ", rear" } else { "" },
            random.one_of(&streets)
        ),
        random.one_of(&notes).to_owned(),
        (100_000 + random.below(800_000)).to_string(),
        format!("{}", random.below(30) as i64 - 10),
        random.one_of(&["council", "private", "highway", "trust land held jointly"]).to_owned(),
    ]
}

/// Plants one fault of the next kind; false where it makes no row held.
fn plant(random: &mut Random, cells: &mut [String], truth: &mut Truth, number: u64) -> bool {
    let (field, value, code) = match number / ONE_FAULTY_IN % 20 {
        0 => ("species", "ACE-99".to_owned(), "off-list"),
        1 => ("planted_on", "winter 1999".to_owned(), "date-bad"),
        2 => ("planted_on", "1999-06-31".to_owned(), "date-impossible"),
        3 => ("girth_cm", "14200".to_owned(), "out-of-range"),
        4 => ("girth_cm", "14.25".to_owned(), "digits-too-many"),
        5 => ("height_m", "12m".to_owned(), "decimal-bad"),
        6 => ("stems", "2.0".to_owned(), "integer-bad"),
        7 => ("protected", "perhaps".to_owned(), "boolean-bad"),
        8 => ("inspector_email", "j.marsh.harrowmere".to_owned(), "email-bad"),
        9 => ("street", "x".repeat(61), "text-too-long"),
        10 => ("site_code", String::new(), "required-blank"),
        11 => ("tag_no", format!("{}x", tag(number)), "pattern-broken"),
        12 => ("tag_no", tag(number).to_lowercase(), "case-wrong"),
        13 => ("tag_no", String::new(), "key-blank"),
        14 => ("condition", "X".to_owned(), "off-list-retired"),
        15 => ("condition", "Goood".to_owned(), "off-list"),
        16 => ("survey_no", "99".to_owned(), "out-of-range"),
        17 if number > 1000 => {
            let first = number - 1 - random.below(900);
            // Only rows that are sound themselves are repeated.
            let first = if first % ONE_FAULTY_IN == 17 { first - 1 } else { first };
            *truth.entry("key-repeated tag_no".to_owned()).or_default() += 2;
            if let Some(cell) = cells.first_mut() {
                *cell = tag(first);
            }
            return true;
        }
        18 => ("ownership", "n".to_owned(), "text-too-short"),
        _ => ("inspected_on", "2031-01-01".to_owned(), "out-of-range"),
    };
    let at = at(field);
    if let Some(cell) = cells.get_mut(at) {
        *cell = value;
    }
    *truth.entry(format!("{code} {field}")).or_default() += 1;
    true
}

/// One fault in every judged cell but the key.
fn fault_everywhere(cells: &mut [String], truth: &mut Truth, number: u64) {
    let faults: [(&str, String, &str); 16] = [
        ("tag_no", tag(number).to_lowercase(), "case-wrong"),
        ("site_code", String::new(), "required-blank"),
        ("species", "ACE-99".to_owned(), "off-list"),
        ("condition", "Goood".to_owned(), "off-list"),
        ("planted_on", "winter 1999".to_owned(), "date-bad"),
        ("inspected_on", "2031-01-01".to_owned(), "out-of-range"),
        ("girth_cm", "14200".to_owned(), "out-of-range"),
        ("height_m", "12m".to_owned(), "decimal-bad"),
        ("stems", "2.0".to_owned(), "integer-bad"),
        ("protected", "perhaps".to_owned(), "boolean-bad"),
        ("removal_due", "soon".to_owned(), "date-bad"),
        ("inspector_email", "j.marsh.harrowmere".to_owned(), "email-bad"),
        ("street", "x".repeat(61), "text-too-long"),
        ("survey_no", "99".to_owned(), "out-of-range"),
        ("lean_deg", "95".to_owned(), "out-of-range"),
        ("ownership", "n".to_owned(), "text-too-short"),
    ];
    for (field, value, code) in faults {
        let at = at(field);
        if let Some(cell) = cells.get_mut(at) {
            *cell = value;
        }
        *truth.entry(format!("{code} {field}")).or_default() += 1;
    }
}
