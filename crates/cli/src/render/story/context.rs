//! What a report does not know of the run it tells of.

use crate::args::CheckArgs;
use crate::render::words::program;
use crate::shell::{quoted, quoted_path};
use std::path::PathBuf;
use tidy_gate_core::mode::Mode;
use tidy_gate_core::plan::Tolerance;
use tidy_gate_files::plan_of_held;

/// What the report does not know of the run it tells of.
#[derive(Debug, Default)]
pub(crate) struct Context {
    /// The program, as it can be typed.
    pub(crate) program: String,
    /// The file, as it was named.
    pub(crate) file: String,
    /// The arguments of the check besides outputs and limits, as they can be typed.
    pub(crate) arguments: String,
    /// The limits, as they can be typed.
    limits: String,
    /// What was written.
    pub(crate) written: Vec<String>,
    pub(crate) wrote_ready: bool,
    pub(crate) wrote_held: bool,
    pub(crate) wrote_findings: bool,
    /// The check of the held rows when they are mended, as it can be typed.
    pub(crate) held_again: Option<String>,
    /// The marked workbook that was written, and the check of it when it comes back, as it can be typed.
    pub(crate) marked_again: Option<(String, String)>,
    /// The check of the receipt that was written before the rows are loaded, as it can be typed.
    pub(crate) receipt: Option<String>,
    /// Whether a receipt was asked for, and there is none.
    pub(crate) lacks_receipt: bool,
    /// What was asked for and not written, since no row was judged.
    pub(crate) not_written: Vec<String>,
    /// The plan, as it was named.
    pub(crate) plan: Option<String>,
    /// The arguments with which `match` pairs the columns of this file.
    pub(crate) pairing: String,
}

/// The words of the same check again.
fn again(args: &CheckArgs) -> Vec<String> {
    let mut arguments = vec![quoted_path(&args.file)];
    arguments.extend(args.record.iter().map(|record| format!("--record {}", quoted_path(record))));
    arguments.extend(args.plan.iter().map(|plan| format!("--plan {}", quoted_path(plan))));
    arguments.extend(args.mode.map(|mode| format!("--mode {}", Mode::from(mode).name())));
    arguments.extend(args.layout.typed());
    arguments.extend(args.dates.iter().map(|dates| format!("--dates {}", quoted(dates))));
    arguments.extend(args.references.iter().map(|reference| format!("--reference {}", quoted(reference))));
    arguments.extend(args.existing.iter().map(|existing| format!("--existing {}", quoted(existing))));
    let released = args.released.iter().map(|file| format!("--released {}", quoted(&file.to_string_lossy())));
    arguments.extend(released);
    arguments.extend(args.today.iter().map(|today| format!("--today {today}")));
    arguments
}

/// The words of a check of the held rows, where they were written.
fn held_again(
    args: &CheckArgs,
    arguments: &[String],
    written: &[PathBuf],
    knows_existing: bool,
) -> Option<String> {
    args.held.as_ref().filter(|held| written.contains(held)).map(|held| {
        let file = quoted_path(held);
        let plan = plan_of_held(held);
        let how = match written.contains(&plan) {
            true => {
                let is_kept =
                    |word: &&String| ["--existing", "--released"].iter().any(|kept| word.starts_with(kept));
                let kept = arguments.iter().filter(is_kept).map(|word| format!(" {word}"));
                format!("--plan {}{}", quoted_path(&plan), kept.collect::<String>())
            }
            // How the file was laid out says nothing of this one.
            false => {
                let is_kept = |word: &&String| {
                    ["--record", "--plan", "--mode", "--dates", "--reference", "--existing", "--released"]
                        .iter()
                        .any(|kept| word.starts_with(kept))
                };
                arguments.iter().filter(is_kept).cloned().collect::<Vec<_>>().join(" ")
            }
        };
        // What is handed over now counts as there when the rest comes back.
        let ready = args.ready.as_ref().filter(|ready| knows_existing && written.contains(ready));
        let released = ready.map(|ready| format!(" --released {}", quoted_path(ready))).unwrap_or_default();
        format!("{file} {how}{released}")
    })
}

/// The words of a check of the marked workbook when it comes back, where it was written: how a text was laid out says
/// nothing of it.
fn marked_again(args: &CheckArgs, arguments: &[String], written: &[PathBuf]) -> Option<(String, String)> {
    let marked = args.marked.as_ref().filter(|marked| written.contains(marked))?;
    let own = args.file.extension().map(|ending| ending.to_string_lossy().to_lowercase()).unwrap_or_default();
    let of_text = ["--delimiter", "--encoding", "--short-rows", "--at"];
    let is_kept = |word: &&String| {
        let is_foreign = of_text.iter().any(|other| word.starts_with(other));
        let is_sheet = word.starts_with("--sheet") && !matches!(own.as_str(), "xlsx" | "xlsm");
        !is_foreign && !is_sheet
    };
    let rest: Vec<&str> = arguments.iter().skip(1).filter(is_kept).map(String::as_str).collect();
    let file = quoted_path(marked);
    Some((marked.display().to_string(), format!("{file} {}", rest.join(" "))))
}

/// What holds the next round against the report of this one, where it was kept for that.
fn since(args: &CheckArgs, written: &[PathBuf]) -> String {
    let is_kept = |report: &&PathBuf| {
        report.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("json"))
            && written.contains(report)
    };
    let kept = args.report.iter().find(is_kept);
    kept.map(|report| format!(" --since {}", quoted_path(report))).unwrap_or_default()
}

/// The limits of a check, as they are typed.
fn limits(args: &CheckArgs) -> String {
    let changes = args.most_changes.iter().map(|most| format!(" --most-changes {}", typed(*most)));
    let emptied = args.most_emptied.iter().map(|most| format!(" --most-emptied {most}"));
    changes.chain(emptied).collect()
}

/// A limit as it is typed.
fn typed(most: Tolerance) -> String {
    match most {
        Tolerance::Rows(most) => most.to_string(),
        share => share.to_string(),
    }
}

impl Context {
    /// The same check again, with outputs besides.
    pub(super) fn again(&self, outputs: &str) -> String {
        format!("{} check {}{}{outputs}", self.program, self.arguments, self.limits)
    }

    pub(crate) fn new(args: &CheckArgs, written: &[PathBuf], knows_existing: bool) -> Self {
        let file = args.file.display().to_string();
        let arguments = again(args);
        let is_named = |word: &String| {
            !["--dates", "--reference", "--existing", "--released"]
                .iter()
                .any(|other| word.starts_with(other))
        };
        let mut pairing: Vec<String> = arguments.iter().filter(|word| is_named(word)).cloned().collect();
        pairing.retain(|word| !word.starts_with("--today") && !word.starts_with("--short-rows"));
        let since = since(args, written);
        let held_again = held_again(args, &arguments, written, knows_existing).map(|again| again + &since);
        let arguments_of_marked = again(args);
        let is_written = |path: &Option<PathBuf>| path.as_ref().is_some_and(|path| written.contains(path));
        Self {
            program: program(),
            file,
            arguments: arguments.join(" "),
            limits: limits(args),
            written: written.iter().map(|path| path.display().to_string()).collect(),
            wrote_ready: is_written(&args.ready),
            wrote_held: is_written(&args.held),
            wrote_findings: is_written(&args.findings),
            held_again,
            marked_again: marked_again(args, &arguments_of_marked, written)
                .map(|(marked, again)| (marked, again + &since)),
            receipt: args
                .receipt
                .as_ref()
                .zip(args.ready.as_ref())
                .filter(|(receipt, _)| written.contains(receipt))
                .map(|(receipt, ready)| format!("{} --with {}", quoted_path(ready), quoted_path(receipt))),
            lacks_receipt: args.receipt.as_ref().is_some_and(|receipt| !written.contains(receipt)),
            not_written: [&args.ready, &args.held]
                .into_iter()
                .flatten()
                .filter(|path| !written.contains(path))
                .map(|path| path.display().to_string())
                .collect(),
            plan: args.plan.as_ref().map(|plan| quoted_path(plan)),
            pairing: pairing.join(" "),
        }
    }
}
