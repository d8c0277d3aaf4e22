//! Every path walked twice, over worlds by chance: out as a template and in again, out as held rows, mended and in again,
//! paired by a plan, drafted from what was written, exported and drafted again, in every form of file.

use super::model::{Kind, World, judge};
use super::{records, report, stops, table, worlds};
use crate::hostile::{archive, sheet, workbook};
use crate::round_trips::Dice;
use crate::tool::{Folder, told};
use serde_json::Value;
use std::collections::{BTreeMap, BTreeSet};

/// A world, and its files in a folder; `turn` numbers are drawn from the same dice.
struct Walk {
    folder: Folder,
    dice: Dice,
}

impl Walk {
    fn new(seed: u64) -> Self {
        let folder = Folder::new();
        folder.write("sites.csv", format!("site\n{}\n", super::model::SITES.join("\n")));
        Self { folder, dice: Dice(seed) }
    }

    /// A world for adding, without words that empty fields, without a scope, and with every row standing.
    fn world(&mut self) -> World {
        loop {
            let world = worlds::world(&mut self.dice);
            let is_plain = world.scope.is_none() && world.stands == super::model::Stands::None;
            if is_plain && !world.clears && !world.updating {
                self.folder.write("r.record.toml", worlds::schema(&world));
                self.folder.write("p.plan.toml", worlds::plan(&world));
                return world;
            }
        }
    }

    /// Rows that the model finds sound, at least some of them.
    fn sound_rows(&mut self, world: &World) -> Vec<Vec<String>> {
        let mut found: Vec<Vec<String>> = Vec::new();
        for _ in 0..60 {
            for row in worlds::rows(world, &mut self.dice) {
                let all: Vec<Vec<String>> = found.iter().chain([&row]).cloned().collect();
                if found.len() < 12 && judge(world, &all).1.is_empty() {
                    found.push(row);
                }
            }
        }
        found
    }
}

fn names(world: &World) -> impl Iterator<Item = String> + '_ {
    world.fields.iter().map(|field| field.name.clone())
}

#[test]
fn a_template_that_is_filled_is_ready_whole() {
    let mut walk = Walk::new(0x7E3A_91C4);
    let mut filled = 0;
    for turn in 0..40 {
        let world = walk.world();
        let rows = walk.sound_rows(&world);
        if rows.is_empty() {
            continue;
        }
        let made = walk.folder.run("template r.record.toml -o t.csv --force");
        assert_eq!(made.code, 0, "{}", made.err);
        // People write below what stands in the sheet, in the order of its columns.
        let template = walk.folder.read("t.csv");
        let mut reader = csv::ReaderBuilder::new()
            .flexible(true)
            .from_reader(template.trim_start_matches('\u{feff}').as_bytes());
        let columns: Vec<usize> = reader
            .headers()
            .unwrap()
            .iter()
            .map(|heading| {
                let bare = heading.trim_end_matches('*').trim();
                world
                    .fields
                    .iter()
                    .position(|field| field.name == bare)
                    .unwrap_or_else(|| panic!("{heading}"))
            })
            .collect();
        let below: Vec<Vec<String>> =
            rows.iter().map(|row| columns.iter().map(|column| row[*column].clone()).collect()).collect();
        let mut writer = csv::Writer::from_writer(Vec::new());
        below.iter().for_each(|row| writer.write_record(row).unwrap());
        walk.folder.write("filled.csv", template + &String::from_utf8(writer.into_inner().unwrap()).unwrap());
        let found = report(&walk.folder, "filled.csv --plan p.plan.toml --ready ready.csv");
        let shown = || {
            format!(
                "turn {turn}: {:?}\n{}\n{}",
                told(&found),
                walk.folder.read("filled.csv"),
                worlds::schema(&world)
            )
        };
        assert_eq!(records(&walk.folder.read("ready.csv")), judge(&world, &rows).0, "{}", shown());
        filled += rows.len();
    }
    assert!(filled > 100, "{filled}");
}

#[test]
fn held_rows_of_any_world_come_back_mended() {
    let mut walk = Walk::new(0x51DE_77A1);
    let mut mended = 0;
    for turn in 0..60 {
        let world = walk.world();
        let sound = walk.sound_rows(&world);
        let mut rows = worlds::rows(&world, &mut walk.dice);
        // Keys that are in the table and the sound rows alike would repeat.
        rows.truncate(8);
        let form = walk.dice.of(&["csv", "json", "ndjson"]);
        walk.folder.write("table.csv", table(names(&world), &rows));
        let first = report(
            &walk.folder,
            &format!("table.csv --plan p.plan.toml --ready ready.csv --held held.{form}"),
        );
        let (ready, wanted) = judge(&world, &rows);
        let held: BTreeSet<usize> = wanted.iter().map(|stop| stop.0).collect();
        if held.is_empty() || held.len() == rows.len() || sound.is_empty() {
            continue;
        }
        // What went back is held again for the same, as long as nobody mends it.
        let beside = walk
            .folder
            .names()
            .into_iter()
            .find(|name| name.starts_with("held") && name.ends_with(".plan.toml"));
        let plan = beside.clone().unwrap_or_else(|| "p.plan.toml".to_owned());
        let shown = || {
            format!(
                "turn {turn}, {form}, {plan}\n{:?}\n{}{}",
                told(&first),
                table(names(&world), &rows),
                worlds::schema(&world)
            )
        };
        let back = report(&walk.folder, &format!("held.{form} --plan {plan} --ready none.csv"));
        assert_eq!(back["counts"]["held"], held.len(), "{}\n{:?}", shown(), told(&back));
        let codes = |report: &Value| -> BTreeSet<(String, String)> {
            stops(report).into_iter().map(|(_, field, code)| (field, code)).collect()
        };
        assert_eq!(codes(&back), codes(&first), "{}", shown());
        // Mended row by row: what the sender meant, in the cells that were wrong.
        let mut whole: Vec<Vec<String>> = ready.clone();
        if form == "csv" {
            let text = walk.folder.read("held.csv");
            let mut reader = csv::ReaderBuilder::new()
                .has_headers(false)
                .from_reader(text.trim_start_matches('\u{feff}').as_bytes());
            let mut writer = csv::Writer::from_writer(Vec::new());
            let mut meant: Vec<Vec<String>> = Vec::new();
            for (at, row) in reader.records().enumerate() {
                let row = row.unwrap();
                let mut cells: Vec<String> = row.iter().map(str::to_owned).collect();
                if let Some(sound) = at.checked_sub(1).and_then(|at| sound.get(at)) {
                    cells.truncate(2);
                    cells.extend(sound.iter().cloned());
                    meant.push(sound.clone());
                }
                if at == 0 || meant.len() == at {
                    writer.write_record(&cells).unwrap();
                }
            }
            walk.folder.write("mended.csv", writer.into_inner().unwrap());
            let back = report(&walk.folder, &format!("mended.csv --plan {plan} --ready back.csv"));
            let (wanted, _) = judge(&world, &meant);
            assert_eq!(records(&walk.folder.read("back.csv")), wanted, "{}\n{:?}", shown(), told(&back));
            whole.extend(wanted);
            mended += meant.len();
        }
        if let Some(beside) = beside {
            std::fs::remove_file(walk.folder.path(&beside)).unwrap();
        }
        assert!(whole.len() >= ready.len());
    }
    assert!(mended > 20, "{mended}");
}

/// Headings as senders write them, each another way from the name of its field.
fn disguised(name: &str, dice: &mut Dice) -> String {
    let number = name.trim_start_matches('f');
    match dice.below(4) {
        0 => name.to_uppercase(),
        1 => format!(" {name} "),
        2 if name != "k" => format!("f-{number}"),
        _ => format!("column {}", if name == "k" { "key" } else { number }),
    }
}

#[test]
fn a_plan_that_match_saved_reads_the_file_as_its_names_would() {
    let mut walk = Walk::new(0x0DD5_EED5);
    let mut by_plan = 0;
    for turn in 0..40 {
        let world = walk.world();
        let rows = worlds::rows(&world, &mut walk.dice);
        let headings: Vec<String> =
            world.fields.iter().map(|field| disguised(&field.name, &mut walk.dice)).collect();
        walk.folder.write("table.csv", table(headings.iter().cloned(), &rows));
        let sets: Vec<String> = headings
            .iter()
            .zip(&world.fields)
            .filter(|(heading, _)| heading.starts_with("column"))
            .map(|(heading, field)| format!("{heading}={}", field.name))
            .collect();
        let mut command = walk
            .folder
            .command("match table.csv --record r.record.toml --plan p.plan.toml --save m.plan.toml --force");
        for set in &sets {
            command.args(["--set", set]);
        }
        let saved = crate::tool::ran(command.output().unwrap());
        assert!(saved.code < 2, "turn {turn}: {}", saved.err);
        let text = walk.folder.read("m.plan.toml");
        // The same again changes nothing.
        let again = walk
            .folder
            .run("match table.csv --record r.record.toml --plan m.plan.toml --save m.plan.toml --force");
        assert_eq!(
            (again.code, walk.folder.read("m.plan.toml")),
            (saved.code, text.clone()),
            "turn {turn}: {}",
            again.err
        );
        let found = report(&walk.folder, "table.csv --plan m.plan.toml --ready ready.csv");
        let (ready, wanted) = judge(&world, &rows);
        let shown = || {
            format!(
                "turn {turn}\n{text}\n{}{}\n{:?}",
                table(headings.iter().cloned(), &rows),
                worlds::schema(&world),
                told(&found)
            )
        };
        assert_eq!(stops(&found), wanted, "{}", shown());
        assert_eq!(records(&walk.folder.read("ready.csv")), ready, "{}", shown());
        by_plan += sets.len();
    }
    assert!(by_plan > 20, "{by_plan}");
}

/// The kinds of a schema by its fields, as `fields` tells them.
fn kinds(folder: &Folder, schema: &str) -> BTreeMap<String, String> {
    let ran = folder.run(&format!("fields {schema} --format json"));
    assert_eq!(ran.code, 0, "{}{}", ran.err, folder.read(schema));
    let told: Value = serde_json::from_str(&ran.out).unwrap();
    let fields = told["fields"].as_array().unwrap().iter();
    fields
        .map(|field| (field["name"].as_str().unwrap().to_owned(), field["kind"].as_str().unwrap().to_owned()))
        .collect()
}

#[test]
fn an_exported_schema_is_drafted_back_with_its_kinds() {
    let mut walk = Walk::new(0x00EC_50FD);
    for turn in 0..25 {
        let world = walk.world();
        let own = kinds(&walk.folder, "r.record.toml");
        assert_eq!(own.len(), world.fields.len());
        for (format, file) in [("json-schema", "s.json"), ("csvw", "s.csv-metadata.json")] {
            let ran = walk.folder.run(&format!("fields r.record.toml --format {format} -o {file} --force"));
            assert_eq!(ran.code, 0, "{}", ran.err);
            let ran = walk.folder.run(&format!("draft {file} -o back.record.toml --force"));
            assert_eq!(ran.code, 0, "turn {turn}, {format}: {}", ran.err);
            let back = kinds(&walk.folder, "back.record.toml");
            for (name, kind) in &own {
                // What a form has no word for comes back as a text.
                let found = back.get(name).unwrap_or_else(|| panic!("turn {turn}, {format}: {name} is gone"));
                let is_kept = found == kind || found == "text" || kind == "text" || kind == "reference";
                assert!(is_kept, "turn {turn}, {format}: {name} was {kind} and is {found}");
            }
            let plain = ["integer", "decimal", "boolean", "date", "time"];
            let lost =
                own.iter().find(|(name, kind)| plain.contains(&kind.as_str()) && back[*name] != **kind);
            assert_eq!(lost, None, "turn {turn}, {format}: {back:?}");
        }
    }
}

#[test]
fn a_draft_of_a_sample_lets_the_sample_through() {
    let mut walk = Walk::new(0xD4AF_7001);
    let mut drafted = 0;
    for turn in 0..40 {
        let world = walk.world();
        let rows = walk.sound_rows(&world);
        if rows.len() < 3 {
            continue;
        }
        walk.folder.write("sample.csv", table(names(&world), &judge(&world, &rows).0));
        let ran = walk.folder.run("draft sample.csv -o d.record.toml --force");
        assert_eq!(ran.code, 0, "turn {turn}: {}", ran.err);
        let ran = walk.folder.run("check sample.csv --record d.record.toml --today 2026-11-25 --format json --ready again.csv --force");
        let found: Value = serde_json::from_str(&ran.out).unwrap();
        let shown = || {
            format!(
                "turn {turn}: {:?}\n{}\n{}",
                told(&found),
                walk.folder.read("sample.csv"),
                walk.folder.read("d.record.toml")
            )
        };
        assert_eq!((&found["counts"]["held"], ran.code), (&0.into(), 0), "{}", shown());
        assert_eq!(found["counts"]["ready"], rows.len(), "{}", shown());
        drafted += 1;
    }
    assert!(drafted > 15, "{drafted}");
}

/// The cells as texts of a workbook.
fn as_xlsx(header: &[String], rows: &[Vec<String>]) -> Vec<u8> {
    let escaped = |text: &str| text.replace('&', "&amp;").replace('<', "&lt;");
    let row = |cells: &[String]| -> String {
        let cells = cells.iter().map(|cell| {
            format!("<c t=\"inlineStr\"><is><t xml:space=\"preserve\">{}</t></is></c>", escaped(cell))
        });
        format!("<row>{}</row>", cells.collect::<String>())
    };
    let body: String = std::iter::once(header).chain(rows.iter().map(Vec::as_slice)).map(row).collect();
    let text = String::from_utf8(sheet("")).unwrap();
    let (start, end) = (text.find("<row").unwrap(), text.find("</sheetData>").unwrap());
    workbook(format!("{}{body}{}", &text[..start], &text[end..]).as_bytes(), b"<sst/>")
}

/// The cells as texts of an OpenDocument sheet.
fn as_ods(header: &[String], rows: &[Vec<String>]) -> Vec<u8> {
    let cell = |text: &String| {
        // White space stands as elements of its own.
        let text = text.replace('&', "&amp;").replace('<', "&lt;").replace(' ', "<text:s/>");
        format!("<table:table-cell office:value-type=\"string\"><text:p>{text}</text:p></table:table-cell>")
    };
    let row = |cells: &[String]| {
        format!("<table:table-row>{}</table:table-row>", cells.iter().map(cell).collect::<String>())
    };
    let body: String = std::iter::once(header).chain(rows.iter().map(Vec::as_slice)).map(row).collect();
    let content = format!(
        "<office:document-content><office:body><office:spreadsheet><table:table table:name=\"S\">{body}</table:table>\
         </office:spreadsheet></office:body></office:document-content>"
    );
    archive(&[("META-INF/manifest.xml", b"<manifest/>"), ("content.xml", content.as_bytes())])
}

#[test]
fn the_same_cells_get_the_same_answer_in_every_form() {
    let mut walk = Walk::new(0x5A3E_CE11);
    for turn in 0..30 {
        let world = walk.world();
        // What is stored as a text in a sheet has no other notation than the one it was typed in.
        let rows = worlds::rows(&world, &mut walk.dice);
        let header: Vec<String> = names(&world).collect();
        let (ready, wanted) = judge(&world, &rows);
        let dressed =
            |delimiter: u8, quotes: csv::QuoteStyle, mark: &str, line: csv::Terminator| -> Vec<u8> {
                let mut writer = csv::WriterBuilder::new()
                    .delimiter(delimiter)
                    .quote_style(quotes)
                    .terminator(line)
                    .from_writer(Vec::new());
                writer.write_record(&header).unwrap();
                rows.iter().for_each(|row| writer.write_record(row).unwrap());
                [mark.as_bytes(), &writer.into_inner().unwrap()].concat()
            };
        let objects: Vec<Value> = rows
            .iter()
            .map(|row| {
                Value::Object(
                    header.iter().cloned().zip(row.iter().map(|cell| Value::from(cell.as_str()))).collect(),
                )
            })
            .collect();
        let lines: String = objects.iter().map(|object| format!("{object}\n")).collect();
        let utf_16: Vec<u8> =
            String::from_utf8(dressed(b'\t', csv::QuoteStyle::Necessary, "\u{feff}", csv::Terminator::CRLF))
                .unwrap()
                .encode_utf16()
                .flat_map(u16::to_le_bytes)
                .collect();
        let forms: Vec<(&str, Vec<u8>)> = vec![
            ("plain.csv", dressed(b',', csv::QuoteStyle::Necessary, "", csv::Terminator::Any(b'\n'))),
            ("quoted.csv", dressed(b';', csv::QuoteStyle::Always, "\u{feff}", csv::Terminator::CRLF)),
            ("mac.csv", dressed(b'|', csv::QuoteStyle::Necessary, "", csv::Terminator::Any(b'\r'))),
            ("wide.csv", utf_16),
            ("records.json", serde_json::to_vec_pretty(&objects).unwrap()),
            ("records.ndjson", lines.into_bytes()),
            ("book.xlsx", as_xlsx(&header, &rows)),
            ("book.ods", as_ods(&header, &rows)),
        ];
        for (name, bytes) in forms {
            walk.folder.write(name, bytes);
            let found = report(&walk.folder, &format!("{name} --plan p.plan.toml --ready ready.csv"));
            let shown = || {
                format!(
                    "turn {turn}, {name}\n{}{}{}\n{:?}",
                    worlds::schema(&world),
                    worlds::plan(&world),
                    table(names(&world), &rows),
                    told(&found)
                )
            };
            // Records count from 1, rows of a sheet from the row of its headings.
            let first = if name.starts_with("records") { 1 } else { 2 };
            let shifted: BTreeSet<_> = stops(&found)
                .into_iter()
                .map(|(row, field, code)| (row.wrapping_add(2 - first), field, code))
                .collect();
            assert_eq!(shifted, wanted, "{}", shown());
            assert_eq!(records(&walk.folder.read("ready.csv")), ready, "{}", shown());
        }
        assert!(world.fields.iter().any(|field| field.kind != Kind::Text));
    }
}
