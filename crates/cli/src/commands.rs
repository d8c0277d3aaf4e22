//! One file a command, and what several of them need.

mod check;
mod completions;
mod demo;
mod draft;
mod effects;
mod existing;
mod explain;
mod fields;
mod held_plan;
mod like;
mod limits;
mod lists;
mod look;
mod matching;
mod mend;
mod input_digest;
mod peek;
mod proof;
mod receipt;
mod reconcile;
mod references;
mod reports;
mod setup;
mod stated;
pub(crate) mod template;

use crate::args::Command;
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
        Command::Demo(args) => demo::run(args),
    }
}
