//! `completions`: what shells and `man` know of the program.

use crate::args::{Cli, CompletionsArgs, ShellArg};
use crate::ended::Ended;
use crate::render;
use clap::CommandFactory;
use clap_complete::{Shell, generate};
use std::path::Path;
use tidy_gate_files::Error;

/// The program's name.
const NAME: &str = "tidy-gate";

pub(crate) fn run(args: &CompletionsArgs) -> anyhow::Result<Ended> {
    let shell = match args.shell {
        ShellArg::Bash => Shell::Bash,
        ShellArg::Zsh => Shell::Zsh,
        ShellArg::Fish => Shell::Fish,
        ShellArg::PowerShell => Shell::PowerShell,
        ShellArg::Man => {
            pages(args.to.as_deref().unwrap_or(Path::new(".")))?;
            return Ok(Ended::Well);
        }
    };
    let mut text = Vec::new();
    generate(shell, &mut Cli::command(), NAME, &mut text);
    render::to_stdout(&String::from_utf8_lossy(&text))?;
    Ok(Ended::Well)
}

/// Writes the man pages: one of the program, one of each command.
fn pages(folder: &Path) -> Result<(), Error> {
    let failed = |source| Error::write(folder, source);
    std::fs::create_dir_all(folder).map_err(failed)?;
    clap_mangen::generate_to(Cli::command().disable_help_subcommand(true), folder).map_err(failed)
}
