//! Rounds: what became of the findings of an earlier report.

use crate::tool::{Folder, demo, project};
use serde_json::Value;

const RECORD: &str = "format = 1\nrecord = \"loan\"\nKEY\
    [[field]]\nname = \"no\"\nkind = \"text\"\npattern = \"L[0-9]{4}\"\nrequired = true\n\
    [[field]]\nname = \"reader\"\nkind = \"text\"\nrequired = true\n\
    [[field]]\nname = \"day\"\nkind = \"date\"\n\
    [[field]]\nname = \"copies\"\nkind = \"integer\"\nrange = { min = 1, max = 9 }\n\
    [[field]]\nname = \"shelf\"\nkind = \"text\"\n";

/// A reader's loan: sound, or with faults in some of its cells.
#[derive(Clone)]
struct Loan {
    sound: [String; 5],
    faulty: [bool; 5],
}

/// Numbers without a pattern that meets the eye (xorshift).
struct Numbers(u64);

impl Numbers {
    fn below(&mut self, most: u64) -> u64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        self.0 % most
    }
}

impl Loan {
    fn new(number: u64, numbers: &mut Numbers) -> Self {
        let day = format!("2024-{:02}-{:02}", 1 + numbers.below(12), 1 + numbers.below(28));
        let reader = format!("reader {}", numbers.below(900));
        let shelf = format!("shelf {}", numbers.below(500));
        let sound = [format!("L{number:04}"), reader, day, (1 + numbers.below(9)).to_string(), shelf];
        let mut faulty = [(); 5].map(|()| numbers.below(20) == 0);
        faulty[4] = false;
        // A row of which hardly anything is sound is known by nothing.
        let mut faults = 0;
        for fault in &mut faulty {
            *fault &= faults < 2;
            faults += usize::from(*fault);
        }
        Self { sound, faulty }
    }

    fn row(&self) -> String {
        let wrong = [&format!("x{}", self.sound[0]), "", "soon", "0", ""];
        let cell = |at: usize| if self.faulty[at] { wrong[at] } else { &self.sound[at] };
        (0..5).map(cell).collect::<Vec<_>>().join(",")
    }

    fn is_sound(&self) -> bool {
        !self.faulty.contains(&true)
    }
}

fn table(loans: &[Loan]) -> String {
    std::iter::once("no,reader,day,copies,shelf".to_owned())
        .chain(loans.iter().map(Loan::row))
        .map(|row| row + "\n")
        .collect()
}

fn count(value: &Value) -> u64 {
    value.as_u64().unwrap()
}

/// The report of the table as a round behind that of another name.
fn round(folder: &Folder, name: &str, before: Option<&str>) -> Value {
    let since = before.map(|before| format!(" --since {before}")).unwrap_or_default();
    let ran = folder.run(&format!(
        "check table.csv --record r.record.toml --today 2026-11-25 --report {name} --force{since}"
    ));
    assert!(ran.code < 2, "{}", ran.err);
    serde_json::from_str(&folder.read(name)).unwrap()
}

#[test]
fn ten_rounds_add_up_and_follow_every_row() {
    for key in ["key = [\"no\"]\n", ""] {
        let (folder, mut numbers) = (Folder::new(), Numbers(7));
        folder.write("r.record.toml", RECORD.replace("KEY", key));
        let mut loans: Vec<Loan> = (0..1500).map(|number| Loan::new(number, &mut numbers)).collect();
        folder.write("table.csv", table(&loans));
        let (mut before, mut gone_in_all) = (round(&folder, "0.json", None), 0);
        for number in 1..10_u64 {
            let (mut mended, mut gone, before_gone) = (0, 0, gone_in_all);
            loans.retain_mut(|loan| {
                let faults = loan.faulty.iter().filter(|fault| **fault).count();
                match numbers.below(10) {
                    _ if faults == 0 => {}
                    0..3 => (loan.faulty, mended) = ([false; 5], mended + 1),
                    3 => gone += 1,
                    // One of several faults is mended.
                    4 if faults > 1 => {
                        loan.faulty[loan.faulty.iter().position(|fault| *fault).unwrap()] = false
                    }
                    _ => {}
                }
                let goes = gone > 0;
                gone_in_all += std::mem::take(&mut gone);
                !goes
            });
            // Rows go for good, new ones come, and all stand in another order.
            let new: Vec<Loan> = (0..20).map(|n| Loan::new(2000 + 20 * number + n, &mut numbers)).collect();
            let held_new = new.iter().filter(|loan| !loan.is_sound()).count() as u64;
            loans.extend(new);
            for at in 1..loans.len() {
                let other = usize::try_from(numbers.below(at as u64 + 1)).unwrap();
                loans.swap(at, other);
            }
            folder.write("table.csv", table(&loans));
            let now = round(&folder, &format!("{number}.json"), Some(&format!("{}.json", number - 1)));
            let (since, counts) = (&now["since"], &now["counts"]);
            let all = |counts: &Value| {
                ["stops", "warns", "notes"].iter().map(|level| count(&counts[level])).sum::<u64>()
            };
            assert_eq!(count(&since["settled"]) + count(&since["open"]), all(&before["counts"]), "{number}");
            assert_eq!(count(&since["open"]) + count(&since["new"]), all(counts), "{number}");
            let rows = ["settled", "open", "gone", "new"].map(|part| count(&since["rows"][part]));
            assert_eq!(rows[0] + rows[1] + rows[2], count(&before["counts"]["held"]), "{number}");
            assert_eq!(rows[1] + rows[3], count(&counts["held"]), "{number}");
            // Whatever was mended is settled, whatever came is new: nothing is followed by its number.
            assert_eq!(
                (rows[0], rows[2], rows[3]),
                (mended, gone_in_all - before_gone, held_new),
                "{number}"
            );
            assert_eq!(since["changed"].as_array().unwrap().len(), 0);
            before = now;
        }
        let schema = std::fs::read(project().join("docs/schemas/report.schema.json")).unwrap();
        let schema: Value = serde_json::from_slice(&schema).unwrap();
        let faults: Vec<String> = jsonschema::validator_for(&schema)
            .unwrap()
            .iter_errors(&before)
            .map(|fault| fault.to_string())
            .collect();
        assert!(faults.is_empty(), "{faults:?}");
    }
}

#[test]
fn what_is_judged_otherwise_is_told_first() {
    let folder = Folder::new();
    folder.write("r.record.toml", RECORD.replace("KEY", "key = [\"no\"]\n"));
    folder.write("table.csv", "no,reader,day,copies\nL0001,Ada,2024-01-02,0\nL0002,,2024-01-02,3\n");
    round(&folder, "a.json", None);
    let changed = RECORD.replace("KEY", "key = [\"no\"]\n").replace("min = 1", "min = 0")
        + "[[rule]]\nname = \"few\"\nmust = \"copies < 5\"\n";
    folder.write("r.record.toml", changed);
    folder.write(
        "table.csv",
        "no,reader,when,copies\nL0002,Ben,2024-01-02,3\nL0001,Ada,2024-01-02,0\nL0003,,2024-01-02,3\n",
    );
    let ran = folder
        .run("check table.csv --record r.record.toml --today 2026-11-25 --since a.json --report b.html");
    assert!(folder.read("b.html").contains("<h2 id=\"since\">"));
    let since = ran.out.split_once(" Since").unwrap().1.split_once(" Columns").unwrap().0;
    insta::assert_snapshot!(format!("{}\n Since{since}", ran.out.lines().nth(1).unwrap()), @r#"
      GATE SHUT   The file may not be loaded: 1 of 3 rows is held. 2 of 2 held rows
     Since  the report of 2026-11-25 on table.csv
       Changed   record schema: field copies changed, rule few added
                 columns: "when" added, "day" removed
       Held      2 settled, 1 new
       Findings  2 settled, 2 new
       New       C1, B4
                                  settled      open       new
       required-blank    reader         1         0         1
       heading-unpaired                 0         0         1
       out-of-range      copies         1         0         0
    "#);
}

#[test]
fn what_is_no_earlier_report_is_refused() {
    let folder = Folder::new();
    folder.write("r.record.toml", RECORD.replace("KEY", "key = [\"no\"]\n"));
    folder.write("table.csv", "no,reader,day,copies\nx,,,\n");
    round(&folder, "good.json", None);
    let plain = folder.run("check table.csv --record r.record.toml --format json").out;
    let good = folder.read("good.json");
    let other =
        good.replace("\"record\": {\n    \"name\": \"loan\"", "\"record\": {\n    \"name\": \"tree\"");
    for (text, said) in [
        ("", "it is no report of a check in JSON"),
        ("[]", "it is no report of a check in JSON"),
        (plain.as_str(), "it carries no fingerprints of its findings"),
        (&good.replace("\"format\": 1", "\"format\": 2"), "it is a report of format 2"),
        (&good.replace("\"salt\": \"", "\"salt\": \"zz"), "its fingerprints are damaged"),
        (&good.replace("\"marks\": \"", "\"marks\": \"*"), "its fingerprints are damaged"),
        (&other, "is of the record tree; this check is of loan"),
    ] {
        folder.write("bad.json", text);
        let ran = folder.run("check table.csv --record r.record.toml --since bad.json");
        assert_eq!(ran.code, 2, "{said}");
        assert!(ran.err.contains(said), "{said}: {}", ran.err);
    }
    assert_eq!(folder.run("check table.csv --record r.record.toml --since none.json").code, 2);
}

#[test]
fn what_comes_back_as_it_went_is_the_same() {
    let folder = Folder::new();
    let file = |name: &str| demo().join(name).display().to_string();
    let (survey, plan) = (file("ward-7-survey.csv"), file("ward-7.plan.toml"));
    let ran = folder.run(&format!(
        "check {survey} --plan {plan} --report first.json --marked m.xlsx --ready y.csv --held h.csv"
    ));
    assert_eq!(ran.code, 1, "{}", ran.err);
    // The workbook with marks, the held rows: in another form, under other numbers, too wide a row among them.
    for again in [format!("m.xlsx --plan {plan}"), "h.csv --plan h.held.plan.toml".to_owned()] {
        let ran = folder.run(&format!("check {again} --since first.json --format json"));
        let report: Value = serde_json::from_str(&ran.out).unwrap();
        let rows = ["settled", "open", "gone", "new"].map(|part| count(&report["since"]["rows"][part]));
        assert_eq!(rows, [0, 88, 0, 0], "{again}");
    }
}
