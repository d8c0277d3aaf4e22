//! `demo`: the demo world in a folder, and a walk through the main job on it.

use crate::args::{Cli, Command, DemoArgs};
use crate::ended::Ended;
use crate::failure::Failure;
use crate::render::words::program;
use crate::render::{self, text};
use crate::shell::quoted;
use crate::terminal::{self, FAINT, GOOD, HEAD, paint};
use clap::Parser;
use std::path::Path;
use tidy_gate_files::Error;
use xxhash_rust::xxh3::xxh3_64;

/// The demo's own files.
const FILES: [(&str, &[u8]); 22] = [
    ("tree.record.toml", include_bytes!("../../../../demo/tree.record.toml")),
    ("species.csv", include_bytes!("../../../../demo/species.csv")),
    ("ward-3-survey.csv", include_bytes!("../../../../demo/ward-3-survey.csv")),
    ("ward-7-survey.csv", include_bytes!("../../../../demo/ward-7-survey.csv")),
    ("ward-9-survey.csv", include_bytes!("../../../../demo/ward-9-survey.csv")),
    ("ward-7.plan.toml", include_bytes!("../../../../demo/ward-7.plan.toml")),
    ("ward-7-words.plan.toml", include_bytes!("../../../../demo/ward-7-words.plan.toml")),
    ("ward-7-answer.xlsx", include_bytes!("../../../../demo/ward-7-answer.xlsx")),
    ("inspection.record.toml", include_bytes!("../../../../demo/inspection.record.toml")),
    ("ward-3-inspections.csv", include_bytes!("../../../../demo/ward-3-inspections.csv")),
    ("ward-3-inspections.plan.toml", include_bytes!("../../../../demo/ward-3-inspections.plan.toml")),
    ("register.sql", include_bytes!("../../../../demo/register.sql")),
    ("tree-dictionary.csv", include_bytes!("../../../../demo/tree-dictionary.csv")),
    ("tree.csv-metadata.json", include_bytes!("../../../../demo/tree.csv-metadata.json")),
    ("tree.schema.json", include_bytes!("../../../../demo/tree.schema.json")),
    ("ward-5-survey.xlsx", include_bytes!("../../../../demo/ward-5-survey.xlsx")),
    ("registry.db", include_bytes!("../../../../demo/registry.db")),
    ("registry-after.csv", include_bytes!("../../../../demo/registry-after.csv")),
    ("ward-3-ready.csv", include_bytes!("../../../../demo/ward-3-ready.csv")),
    ("ward-3-second-round.csv", include_bytes!("../../../../demo/ward-3-second-round.csv")),
    ("ward-3-update.csv", include_bytes!("../../../../demo/ward-3-update.csv")),
    ("ward-3-update.plan.toml", include_bytes!("../../../../demo/ward-3-update.plan.toml")),
];

/// What the walk itself writes.
const WRITTEN: [&str; 11] = [
    "ready.csv",
    "held.csv",
    "findings.csv",
    "tree-template.xlsx",
    "ward-7-mended.csv",
    "ward-7-marked.xlsx",
    "ward-7-ready.csv",
    "ward-7-first.json",
    "ward-7-first.html",
    "ward-7-second.json",
    RECEIPT,
];

const RECEIPT: &str = "ward-7-receipt.json";

/// What is written beside the held rows and the mended copy.
const BESIDE: [&str; 2] = ["held.plan.toml", "ward-7-mended.csv.log.csv"];

pub(crate) fn run(
    args: &DemoArgs,
    command: &dyn Fn(&Command) -> anyhow::Result<Ended>,
) -> anyhow::Result<Ended> {
    write_files(args)?;
    let walk = Walk { program: program(), run: command };
    let file = |name: &str| args.folder.join(name).display().to_string();
    walk.say(&format!(
        "{}\n\nThe borough of Harrowmere keeps a register of its street trees. The folder {} now holds its\n\
         record schema (tree.record.toml, with species.csv), five files that contractors sent, two plans for one\n\
         of them, four descriptions of the register to draft from, the inspections of a ward with their own\n\
         record schema and plan, and a part of the register itself (registry.db) with what became of a load.\n\
         All of it is invented.",
        paint("A walk through Tidy Gate", HEAD),
        args.folder.display(),
    ))?;
    let (sound, faulty, record) =
        (file("ward-3-survey.csv"), file("ward-7-survey.csv"), file("tree.record.toml"));
    let [ready, held, findings, template, ..] = WRITTEN.map(file);
    walk.step(1, "May the file for ward 3 go through?", &["check", &sound, "--record", &record])?;
    walk.step(
        2,
        "The file for ward 7 is an export with a title and a total. What does it hold?",
        &["peek", &faulty, "--record", &record, "--rows", "3"],
    )?;
    let (page, first) = (file("ward-7-first.html"), file("ward-7-first.json"));
    walk.step(
        3,
        "May it go through? The report goes into a page for a browser too, and into a file for the rounds to come.",
        &["check", &faulty, "--record", &record, "--report", &page, "--report", &first, "--force"],
    )?;
    walk.step(4, "How does the first cause come about?", &["explain", "rows-pasted-twice"])?;
    walk.step(
        5,
        "What do the contractor's words stand for? Those that are open, a plan can say.",
        &["match", &faulty, "--record", &record, "--values", "condition"],
    )?;
    let (plan, odd) = (file("ward-7.plan.toml"), file("ward-9-survey.csv"));
    walk.step(
        6,
        "The headings of the file for ward 9 were typed from memory. Which column is which field?",
        &["match", &odd, "--record", &record],
    )?;
    let question = "A plan keeps what was decided for the file of ward 7, which looks the same every year, and says how its\n   \
                    dates are written. The rows that may load are taken apart from those that go back.";
    let outputs = ["--ready", &ready, "--held", &held, "--findings", &findings, "--force"];
    walk.step(7, question, &[&["check", &faulty, "--plan", &plan], &outputs[..]].concat())?;
    there_and_back(&walk, &file, &plan)?;
    let book = file("ward-5-survey.xlsx");
    walk.step(12, "The file for ward 5 is a workbook.", &["check", &book, "--record", &record])?;
    last_steps(&walk, &file, &record, &template)?;
    keep_traces(&args.folder)?;
    walk.say(&format!(
        "{}\nLook at {}, {} and {}. This lists everything:\n\n   {}",
        paint("Go on from here", HEAD),
        WRITTEN[0],
        WRITTEN[1],
        WRITTEN[5],
        paint(&format!("{} --help", walk.program), GOOD)
    ))?;
    Ok(Ended::Well)
}

/// The file for ward 7 on its way: mended, marked, sent, and back.
fn there_and_back(walk: &Walk<'_>, file: &dyn Fn(&str) -> String, plan: &str) -> anyhow::Result<()> {
    let (faulty, words, answer) =
        (file("ward-7-survey.csv"), file("ward-7-words.plan.toml"), file("ward-7-answer.xlsx"));
    let [mended, marked, ready] = ["ward-7-mended.csv", "ward-7-marked.xlsx", "ward-7-ready.csv"].map(file);
    let [first, second, receipt] =
        ["ward-7-first.json", "ward-7-second.json", "ward-7-receipt.json"].map(file);
    walk.step(
        8,
        "What needs no guess is mended in a copy, with a log of every cell.",
        &["mend", &faulty, "--plan", plan, "-o", &mended, "--force"],
    )?;
    walk.step(
        9,
        "The plan says by now what the contractor's words stand for. The rest goes back to him as a workbook of his own\n   \
         rows, in which every faulty cell is marked. What became of the first round is said too.",
        &[
            &["check", &mended, "--plan", &words, "--since", &first, "--report", &second],
            &["--marked", &marked, "--force"][..],
        ]
        .concat(),
    )?;
    walk.step(
        10,
        "His answer is that workbook, put right. Marks and reasons are still in it: nobody reads them. The rows are handed\n   \
         over with a receipt.",
        &[
            &["check", &answer, "--plan", &words, "--since", &second],
            &["--ready", &ready, "--receipt", &receipt, "--force"][..],
        ]
        .concat(),
    )?;
    walk.step(
        11,
        "Whoever loads them sees first whether they are the very rows that passed.",
        &["receipt", &ready, "--with", &receipt, "--input", &answer, "--plan", &words],
    )
}

fn last_steps(
    walk: &Walk<'_>,
    file: &dyn Fn(&str) -> String,
    record: &str,
    template: &str,
) -> anyhow::Result<()> {
    let (visits, visits_plan) = (file("ward-3-inspections.csv"), file("ward-3-inspections.plan.toml"));
    walk.step(
        13,
        "In the inspections of ward 3 several rows make one record: a stop in one of them holds them all.",
        &["check", &visits, "--plan", &visits_plan],
    )?;
    let registry = format!("{}#tree", file("registry.db"));
    walk.step(
        14,
        "The register holds most trees of ward 3 already. What would loading its file change?",
        &[
            "effects",
            &file("ward-3-survey.csv"),
            "--record",
            record,
            "--mode",
            "both",
            "--existing",
            &registry,
        ],
    )?;
    let (update, update_plan) = (file("ward-3-update.csv"), file("ward-3-update.plan.toml"));
    walk.step(
        15,
        "An inspector's list may bring the condition, the girth and the day up to date, and nothing else.",
        &["check", &update, "--plan", &update_plan],
    )?;
    let (ready, second) = (file("ward-3-ready.csv"), file("ward-3-second-round.csv"));
    walk.step(
        16,
        "Mended rows come back after the first ones were handed over. Do they take what those have taken?",
        &["check", &second, "--record", record, "--existing", &registry, "--released", &ready],
    )?;
    walk.step(
        17,
        "The ready rows of ward 3 were loaded. Has all of it arrived?",
        &[
            "reconcile",
            &ready,
            "--record",
            record,
            "--mode",
            "update",
            "--existing",
            &file("registry-after.csv"),
        ],
    )?;
    walk.step(
        18,
        "Next year the contractors get a sheet to fill that asks for the right things.",
        &["template", record, "-o", template, "--force"],
    )
}

/// Writes the demo's files; a file of another content in their place is left alone without `--force`.
fn write_files(args: &DemoArgs) -> anyhow::Result<()> {
    let folder = &args.folder;
    for (name, content) in FILES {
        let path = folder.join(name);
        let strange = std::fs::read(&path).is_ok_and(|found| found != content);
        if strange && !args.force {
            let message = format!("{} exists and is not the demo's own", path.display());
            return Err(Failure::usage(
                message,
                "name another folder, or overwrite it with --force".to_owned(),
            )
            .into());
        }
    }
    if !args.force
        && let Some(found) =
            WRITTEN.iter().chain(&BESIDE).find(|name| is_changed(folder, name)).map(|name| folder.join(name))
    {
        let message = format!("{} exists and would be overwritten", found.display());
        return Err(
            Failure::usage(message, "name another folder, or overwrite it with --force".to_owned()).into()
        );
    }
    std::fs::create_dir_all(folder).map_err(|reason| {
        Failure::usage(format!("cannot make the folder {}: {reason}", folder.display()), None)
    })?;
    for (name, content) in FILES {
        let path = folder.join(name);
        std::fs::write(&path, content).map_err(|source| Error::Write { path, source })?;
    }
    Ok(())
}

/// What the walk wrote, with a hash of each: so that a later walk leaves alone what somebody has worked on.
const TRACES: &str = ".demo-written";

/// A line of the traces.
fn trace(name: &str, content: &[u8]) -> String {
    format!("{:016x} {name}", xxh3_64(content))
}

/// Whether there is such a file, other than an earlier walk left it. A receipt is another each time it is written, and
/// nobody works on one.
fn is_changed(folder: &Path, name: &str) -> bool {
    if name == RECEIPT {
        return false;
    }
    let Ok(content) = std::fs::read(folder.join(name)) else { return folder.join(name).exists() };
    let traces = std::fs::read_to_string(folder.join(TRACES)).unwrap_or_default();
    !traces.lines().any(|line| line == trace(name, &content))
}

/// Keeps what the walk wrote.
fn keep_traces(folder: &Path) -> anyhow::Result<()> {
    let lines = WRITTEN
        .iter()
        .chain(&BESIDE)
        .filter_map(|name| Some(trace(name, &std::fs::read(folder.join(name)).ok()?) + "\n"))
        .collect::<String>();
    let path = folder.join(TRACES);
    Ok(std::fs::write(&path, lines).map_err(|source| Error::Write { path, source })?)
}

struct Walk<'a> {
    program: String,
    /// Runs a command.
    run: &'a dyn Fn(&Command) -> anyhow::Result<Ended>,
}

impl Walk<'_> {
    fn say(&self, text: &str) -> Result<(), Failure> {
        render::to_stdout(&format!("{text}\n\n"))
    }

    /// Shows a command as it can be typed, and what comes of it.
    fn step(&self, number: u8, question: &str, words: &[&str]) -> anyhow::Result<()> {
        let rule = "─".repeat(terminal::width().min(100));
        let typed: Vec<_> = words.iter().map(|word| quoted(word)).collect();
        self.say(&format!(
            "{}\n{}  {}\n\n{}",
            paint(&rule, FAINT),
            paint(&number.to_string(), HEAD),
            paint(question, HEAD),
            text::command_lines(&format!("{} {}", self.program, typed.join(" ")), terminal::width())
                .join("\n")
        ))?;
        let cli = Cli::try_parse_from(std::iter::once("tidy-gate").chain(words.iter().copied()))?;
        (self.run)(&cli.command)?;
        Ok(self.say("")?)
    }
}
