//! How people write dates: a list of spellings with what a check makes of each.

use crate::tool::Folder;

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
