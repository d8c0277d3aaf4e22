//! Which command does what was typed.

use crate::args::Command;
use crate::commands::{
    check, completions, demo, draft, effects, explain, fields, matching, mend, peek, receipt, reconcile,
    template,
};
use crate::ended::Ended;

/// Runs a command.
pub(crate) fn run(command: &Command) -> anyhow::Result<Ended> {
    match command {
        Command::Check(args) => check::run(args),
        Command::Mend(args) => mend::run(args),
        Command::Effects(args) => effects::run(args),
        Command::Receipt(args) => receipt::run(args),
        Command::Reconcile(args) => reconcile::run(args),
        Command::Peek(args) => peek::run(args),
        Command::Draft(args) => draft::run(args),
        Command::Fields(args) => fields::run(args),
        Command::Template(args) => template::run(args),
        Command::Match(args) => matching::run(args),
        Command::Explain(args) => explain::run(args),
        Command::Completions(args) => completions::run(args),
        Command::Demo(args) => demo::run(args, &run),
    }
}
