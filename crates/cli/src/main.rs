//! `tidy-gate`: checks a prepared import file against a record schema before any load runs.

mod args;
mod commands;
mod ended;
mod failure;
mod interrupt;
mod mishap;
mod no_memory;
mod progress;
mod render;
mod shell;
mod telling;
mod terminal;

use clap::Parser;
use std::process::ExitCode;

fn main() -> ExitCode {
    no_memory::watch();
    mishap::watch();
    interrupt::watch();
    telling::told(|| {
        let cli = match args::Cli::try_parse() {
            Ok(cli) => cli,
            Err(asked) => return said(&asked),
        };
        let outcome = match &cli.command {
            args::Command::Check(args) => commands::check::run(args),
            args::Command::Mend(args) => commands::mend::run(args),
            args::Command::Effects(args) => commands::effects::run(args),
            args::Command::Reconcile(args) => commands::reconcile::run(args),
            args::Command::Peek(args) => commands::peek::run(args),
            args::Command::Draft(args) => commands::draft::run(args),
            args::Command::Fields(args) => commands::fields::run(args),
            args::Command::Template(args) => commands::template::run(args),
            args::Command::Match(args) => commands::matching::run(args),
            args::Command::Explain(args) => commands::explain::run(args),
            args::Command::Demo(args) => commands::demo::run(args),
        };
        outcome.map_or_else(|error| telling::tell(&error), ExitCode::from)
    })
}

/// Help that was asked for, or what is wrong with the arguments.
fn said(asked: &clap::Error) -> ExitCode {
    let text = asked.render().ansi().to_string();
    if asked.use_stderr() {
        render::to_stderr(&text);
        return ExitCode::from(2);
    }
    render::to_stdout(&text).map_or_else(|error| telling::tell(&error.into()), |()| ExitCode::SUCCESS)
}
