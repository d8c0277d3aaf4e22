//! `tidy-gate`: checks a prepared import file against a record schema before any load runs.

mod args;
mod commands;
mod dispatch;
mod ended;
mod failure;
mod free_name;
mod interrupt;
mod manner;
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
    if std::env::var_os("TIDY_GATE_LANES").is_some_and(|lanes| lanes == "portable") {
        tidy_gate_core::scan::use_portable_lanes();
    }
    no_memory::watch();
    mishap::watch();
    interrupt::watch();
    telling::told(|| {
        let cli = match args::Cli::try_parse() {
            Ok(cli) => cli,
            Err(asked) => return said(&asked),
        };
        manner::take(&cli);
        let outcome = dispatch::run(&cli.command);
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
