//! `--ask`: the open columns one by one, each with its likely fields in a list to choose from.

use super::draft::Draft;
use crate::failure::Failure;
use crate::terminal::shown;
use dialoguer::theme::{ColorfulTheme, SimpleTheme, Theme};
use dialoguer::{FuzzySelect, Input};
use std::io::IsTerminal;
use tidy_gate_core::finding::letter;
use tidy_gate_core::gate::{Contents, Gate, Settings};
use tidy_gate_core::headings::ColumnName;
use tidy_gate_core::headings::Paired;
use tidy_gate_core::matching::{open_fields, proposals};
use tidy_gate_core::plan::{Plan, PlanEdit};

/// What can be answered.
#[derive(Debug, Clone)]
enum Answer {
    Field(String),
    LeaveOut,
    Later,
}

pub(super) fn walk(
    draft: &mut Draft,
    gate: &mut Gate,
    contents: &Contents,
    settings: &dyn Fn(Plan) -> Settings,
) -> anyhow::Result<()> {
    if !std::io::stdin().is_terminal() || !std::io::stderr().is_terminal() {
        let help = "decide with --set, --leave-out and --default".to_owned();
        return Err(Failure::usage("--ask needs a terminal to ask on", help).into());
    }
    let is_plain = anstream::AutoStream::choice(&std::io::stderr()) == anstream::ColorChoice::Never;
    let theme: Box<dyn Theme> =
        if is_plain { Box::new(SimpleTheme) } else { Box::new(ColorfulTheme::default()) };
    for column in 0..gate.width() {
        let is_open = matches!(
            gate.pairing().columns.get(column),
            Some(
                Paired::Unknown { .. }
                    | Paired::Unclear { .. }
                    | Paired::Repeated { .. }
                    | Paired::Shared { .. }
            )
        ) || gate.pairing().columns.get(column) == Some(&Paired::Blank)
            && contents.count(column) > 0;
        if !is_open {
            continue;
        }
        let (answers, lines) = choices(gate, contents, column);
        let heading = gate.table().headings.get(column).cloned().unwrap_or_default();
        let name = if heading.is_empty() { "(no heading)".to_owned() } else { format!("\"{heading}\"") };
        let some: Vec<String> = contents.first(column).map(shown).collect();
        let prompt = format!("Column {} {}: {}", letter(column), shown(&name), some.join(" · "));
        let chosen = FuzzySelect::with_theme(theme.as_ref())
            .with_prompt(prompt)
            .items(&lines)
            .default(0)
            .max_length(12)
            .interact_opt()?;
        // Escape ends the walk; what was answered so far counts.
        let Some(answer) = chosen.and_then(|chosen| answers.get(chosen)) else { break };
        let is_repeated = gate.table().headings.iter().filter(|other| **other == heading).count() > 1;
        let name = match heading.is_empty() || is_repeated || gate.table().heading_row.is_none() {
            true => ColumnName::Place(column),
            false => ColumnName::Heading(heading),
        };
        let field = match answer {
            Answer::Field(field) => Some(field.clone()),
            Answer::LeaveOut => None,
            Answer::Later => continue,
        };
        let by_position = gate.table().heading_row.is_none();
        draft.change(&PlanEdit { columns: vec![(name, field)], by_position, ..PlanEdit::default() })?;
        let plan = draft.plan()?;
        *gate = Gate::new(draft.schema.clone(), settings(plan), gate.table().clone());
    }
    ask_defaults(draft, gate, settings, theme.as_ref())
}

/// Asks for a default of each field that is needed and has no column; the key takes none.
fn ask_defaults(
    draft: &mut Draft,
    gate: &mut Gate,
    settings: &dyn Fn(Plan) -> Settings,
    theme: &dyn Theme,
) -> anyhow::Result<()> {
    if !gate.settings().mode.adds() {
        return Ok(());
    }
    for field in open_fields(gate).into_iter().filter(|field| field.needed && !field.key) {
        let prompt = format!("{} has no column; one value for all rows (blank: none)", shown(&field.label));
        loop {
            let answer: String =
                Input::with_theme(theme).with_prompt(&prompt).allow_empty(true).interact_text()?;
            if answer.trim().is_empty() {
                break;
            }
            let before = draft.text.clone();
            let defaults = vec![(field.field.clone(), answer.trim().to_owned())];
            draft.change(&PlanEdit { defaults, ..PlanEdit::default() })?;
            match draft.plan() {
                Ok(plan) => {
                    *gate = Gate::new(draft.schema.clone(), settings(plan), gate.table().clone());
                    break;
                }
                // It is no value of the field: asked once more.
                Err(_) => draft.text = before,
            }
        }
    }
    Ok(())
}

/// The likely fields first, then leaving it out, then all other open fields.
fn choices(gate: &Gate, contents: &Contents, column: usize) -> (Vec<Answer>, Vec<String>) {
    let (mut answers, mut lines) = (Vec::new(), Vec::new());
    let proposed = proposals(gate, contents).into_iter().nth(column).map(|found| found.1).unwrap_or_default();
    for proposal in &proposed {
        answers.push(Answer::Field(proposal.field.clone()));
        lines.push(format!("{}  ({})", proposal.field, proposal.why));
    }
    answers.extend([Answer::LeaveOut, Answer::Later]);
    lines.extend(["leave the column out".to_owned(), "decide later".to_owned()]);
    let fields = gate.schema().fields.iter().enumerate();
    let is_open = |number: usize| gate.pairing().column_of.get(number).copied().flatten().is_none();
    for (_, field) in fields.filter(|(number, field)| is_open(*number) && !field.read_only) {
        if proposed.iter().all(|proposal| proposal.field != field.name) {
            answers.push(Answer::Field(field.name.clone()));
            let label = if field.label == field.name { String::new() } else { format!("  {}", field.label) };
            lines.push(shown(&format!("{}{label}", field.name)));
        }
    }
    (answers, lines)
}
