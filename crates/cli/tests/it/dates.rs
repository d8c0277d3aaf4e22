//! How people write dates: a list of spellings with what a check makes of each.

use crate::tool::Folder;
use serde_json::json;

const LIST: &str = include_str!("../data/dates.txt");

/// A column of one file: the lines of its plan, and its cells with their outcomes.
#[derive(Default)]
struct Section {
    name: &'static str,
    plan: String,
    cells: Vec<(&'static str, &'static str)>,
}

fn sections() -> Vec<Section> {
    let mut sections: Vec<Section> = Vec::new();
    for line in LIST.lines().filter(|line| !line.starts_with('#') && !line.trim().is_empty()) {
        if let Some(name) = line.strip_prefix('[') {
            sections.push(Section { name: name.trim_end_matches(']'), ..Section::default() });
            continue;
        }
        let Section { plan, cells, .. } = sections.last_mut().unwrap();
        match line.split_once("=> ") {
            Some((text, outcome)) => cells.push((text.strip_suffix(' ').unwrap(), outcome.trim())),
            None => plan.push_str(&format!("{line}\n")),
        }
    }
    sections
}

#[test]
fn dates_as_people_write_them() {
    let sections = sections();
    assert!(sections.iter().map(|section| section.cells.len()).sum::<usize>() >= 300);
    let mut wrong = Vec::new();
    for Section { name, plan, cells } in sections {
        let folder = Folder::new();
        folder.write("r.record.toml", "format = 1\nrecord = \"t\"\n[[field]]\nname = \"day\"\nkind = \"date\"\n[[field]]\nname = \"n\"\nkind = \"integer\"\n");
        folder.write("p.plan.toml", format!("format = 1\nrecord = \"r.record.toml\"\n[read]\n{plan}"));
        let mut table = csv::Writer::from_path(folder.path("table.csv")).unwrap();
        table.write_record(["day", "n"]).unwrap();
        for (number, (text, _)) in cells.iter().enumerate() {
            table.write_record([*text, &number.to_string()]).unwrap();
        }
        table.flush().unwrap();
        let ran = folder
            .run("check table.csv --plan p.plan.toml --today 2026-11-25 --format json --ready ready.csv");
        assert!(ran.code < 2, "{}", ran.err);
        let report: serde_json::Value = serde_json::from_str(&ran.out).unwrap();
        let mut outcomes = vec![String::new(); cells.len()];
        for row in csv::Reader::from_path(folder.path("ready.csv")).unwrap().records().map(Result::unwrap) {
            outcomes[row[1].parse::<usize>().unwrap()] = row[0].to_owned();
        }
        for finding in
            report["findings"].as_array().unwrap().iter().filter(|finding| finding["letter"] == "A")
        {
            let (row, code) = (finding["row"].as_u64().unwrap() as usize, finding["code"].as_str().unwrap());
            if row > 1 && code.starts_with("date-") {
                let outcome = &mut outcomes[row - 2];
                *outcome = format!("{outcome} {code}").trim().to_owned();
            }
        }
        for ((text, expected), outcome) in cells.iter().zip(outcomes) {
            if outcome != *expected {
                wrong.push(format!("{name}: {text:?} is {outcome:?}, not {expected:?}"));
            }
        }
    }
    assert!(wrong.is_empty(), "{} are read otherwise:\n{}", wrong.len(), wrong.join("\n"));
}

/// What stands in a column of days or moments that nobody stated the form of, and what the plan of its cause says.
#[test]
fn a_form_that_nobody_stated_is_told_and_the_plan_of_its_cause_reads_all() {
    for (kind, cells, forms) in [
        ("date", ["15. 3. 1960", "1. 12. 1999", "30. 6. 2001"], "\"d. M. yyyy\""),
        ("date", ["2024年5月1日", "2023年12月31日", "1999年1月9日"], "\"yyyy年M月d日\""),
        ("date", ["15.3.1960.", "1.12.1999.", "30.6.2001."], "\"d.M.yyyy.\""),
        ("datetime", ["15.03.2020 10:05", "01.12.2020 09:30", "24.12.2021 23:15"], "\"d.M.yyyy HH:mm\""),
        (
            "datetime",
            ["15. 3. 2020 10:05:00", "1. 12. 2020 9:30", "24. 12. 2021 23:15"],
            "\"d. M. yyyy H:mm\", \"d. M. yyyy HH:mm\", \"d. M. yyyy HH:mm:ss\"",
        ),
        (
            "datetime",
            ["3/15/2020 10:05 PM", "12/1/2020 9:30 AM", "12/24/2021 1:15 PM"],
            "\"M/d/yyyy h:mm a\"",
        ),
        (
            "datetime",
            ["2024-01-31 4:19 AM", "2024-02-01 12:05 PM", "2024-12-24 11:30 PM"],
            "\"yyyy-M-d h:mm a\"",
        ),
        ("datetime", ["2024-01-31 8h05", "2024-02-01 14h30", "2024-12-24 23h59"], "\"yyyy-M-d H'h'mm\""),
        ("date", ["20240131", "19991201", "20241224"], "\"yyyyMMdd\""),
        ("date", ["31012024", "01121999", "24122024"], "\"ddMMyyyy\""),
        ("time", ["4:19 AM", "12:05 p.m.", "11:30 PM"], "\"h:mm a\""),
        ("time", ["8h05", "14h30", "23h59"], "\"H'h'mm\""),
        ("time", ["8.05", "14.30", "23.59"], "\"HH.mm\""),
        ("time", ["0805", "1430", "2359"], "\"HHmm\""),
        ("time", ["9:5:30", "14:3:7", "23:0:59"], "\"H:m:s\""),
        ("time", ["8:05 AM", "14:30", "1:59 PM"], "\"h:mm a\""),
    ] {
        let folder = Folder::new();
        let schema = format!(
            "format = 1\nrecord = \"t\"\nkey = [\"k\"]\n[[field]]\nname = \"k\"\nkind = \"text\"\n[[field]]\nname = \"at\"\nkind = \"{kind}\"\n"
        );
        let rows = cells.iter().enumerate().map(|(row, cell)| format!("K{row};{cell}\n"));
        folder
            .write("r.record.toml", schema)
            .write("table.csv", format!("k;at\n{}", rows.collect::<String>()));
        let report = folder.report("");
        let plan = report["causes"][0]["remedy"]["plan"].as_str().unwrap_or_default().to_owned();
        let key = if kind == "time" { "times" } else { "dates" };
        assert!(plan.contains(&format!("{key} = [{forms}]")), "{report}");
        folder.write("p.plan.toml", format!("format = 1\nrecord = \"r.record.toml\"\n{plan}"));
        let again = folder.run("check table.csv --plan p.plan.toml");
        assert_eq!(again.code, 0, "{}{}", again.out, again.err);
    }
}

/// Parts of a day, numbers, other times and lengths of time tell no form of times.
#[test]
fn what_may_be_no_time_has_no_form() {
    for (kind, cells) in [
        ("time", ["0.35", "0.41", "0.52"]),
        ("time", ["8.50", "9.25", "17.00"]),
        ("time", ["8.5", "7.5", "9.0"]),
        ("time", ["8", "14", "23"]),
        ("time", ["8h05", "14.30", "noon"]),
        ("time", ["25h10", "14h75", "99h01"]),
        ("duration", ["1h30", "2h45", "0h50"]),
    ] {
        let folder = Folder::new();
        let rows = cells.iter().enumerate().map(|(row, cell)| format!("K{row};{cell}\n"));
        let key = "format = 1\nrecord = \"t\"\n[[field]]\nname = \"k\"\nkind = \"text\"\n";
        folder
            .write("r.record.toml", format!("{key}[[field]]\nname = \"at\"\nkind = \"{kind}\"\n"))
            .write("table.csv", format!("k;at\n{}", rows.collect::<String>()));
        let report = folder.report("");
        let of_times = &report["totals"][0];
        assert_eq!((&of_times["code"], &of_times["count"]), (&json!("time-bad"), &json!(3)), "{report}");
        assert_eq!(report["causes"], json!([]), "{report}");
    }
}

/// The forms that a plan states are those of the file's cells: defaults, rules and existing records are in the target's.
#[test]
fn forms_of_a_file_change_nothing_in_what_is_there() {
    let folder = Folder::new();
    let field = |name: &str, kind: &str, more: &str| {
        format!("[[field]]\nname = \"{name}\"\nkind = \"{kind}\"\n{more}")
    };
    folder.write(
        "r.record.toml",
        format!(
            "format = 1\nrecord = \"t\"\nkey = [\"k\"]\n{}{}{}{}{}[[rule]]\nname = \"late\"\nwhen = \"n IS NOT NULL\"\n\
             must = \"d > DATE '2021-01-01'\"\n",
            field("k", "text", ""),
            field("d", "date", "default = \"2022-02-03\"\n"),
            field("at", "datetime", "default = \"2022-02-03T10:00\"\n"),
            field("h", "time", "default = \"10:00\"\n"),
            field("n", "integer", "")
        ),
    );
    folder.write("e.csv", "k,d,at,h,n\nA,2020-01-02,2020-01-02T09:00,09:00,\nB,2021-03-04,,,\n");
    let read = |head: &str, dates: &str| format!("{head}\n{dates}\n");
    let of_fields = read("[read.fields.d]", "dates = [\"d.M.yyyy\"]")
        + &read("[read.fields.at]", "dates = [\"d.M.yyyy H.mm\"]")
        + &read("[read.fields.h]", "times = [\"H.mm\"]");
    let of_all = read("[read]", "dates = [\"d.M.yyyy\", \"d.M.yyyy H.mm\"]\ntimes = [\"H.mm\"]");
    for stated in [of_fields, of_all] {
        let plan = format!(
            "format = 1\nrecord = \"r.record.toml\"\nmode = \"both\"\n{stated}[existing]\nfile = \"e.csv\"\n"
        );
        folder.write("p.plan.toml", plan);
        folder.write("table.csv", "k,d,at,h,n\nA,,,,5\nB,4.3.2021,5.6.2021 7.08,8.15,6\nC,,,,\n");
        let ran = folder.run("check table.csv --plan p.plan.toml --format json --ready ready.csv --force");
        let report: serde_json::Value = serde_json::from_str(&ran.out).unwrap();
        let told: Vec<_> =
            report["findings"].as_array().unwrap().iter().map(|told| (&told["code"], &told["row"])).collect();
        assert_eq!(told, [(&"rule-broken".into(), &2.into())], "{stated}");
        assert_eq!(
            folder.read("ready.csv"),
            "k,d,at,h,n\nB,2021-03-04,2021-06-05T07:08:00,08:15:00,6\nC,2022-02-03,2022-02-03T10:00:00,10:00:00,\n"
        );
        assert_eq!(report["effects"]["records"]["changed"], 1);
    }
    // A form is for a field that has such values.
    for (field, key) in [("k", "dates"), ("n", "times"), ("h", "dates"), ("d", "times")] {
        let plan =
            format!("format = 1\nrecord = \"r.record.toml\"\n[read.fields.{field}]\n{key} = [\"HH\"]\n");
        folder.write("p.plan.toml", plan);
        let ran = folder.run("check table.csv --plan p.plan.toml");
        assert!(
            ran.code == 2 && ran.err.contains(&format!("`{key}` is stated for `{field}`, which is no")),
            "{}",
            ran.err
        );
    }
}
