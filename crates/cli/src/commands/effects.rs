//! `effects`: what loading the ready rows would do to the records that are there.

use super::check::{Listed, check};
use super::limits::nothing_known;
use crate::args::{EffectsArgs, FormatArg};
use crate::ended::Ended;
use crate::render::story::Context;
use crate::render::{self, json, text};
use tidy_gate_core::report::Verdict;

pub(crate) fn run(args: &EffectsArgs) -> anyhow::Result<Ended> {
    let (report, written) =
        check(&args.check, Listed { changes: args.rows.as_deref(), missing: args.missing.as_deref() })?;
    let Some(effects) = &report.effects else { return Err(nothing_known(&args.check).into()) };
    let text = match args.check.format {
        FormatArg::Json => json::pretty(effects)?,
        FormatArg::Text => {
            let context = Context::new(&args.check, &written, true);
            text::effects(&report, effects, &context, crate::terminal::width())
        }
    };
    render::to_stdout_beside(&text, &written)?;
    Ok(if report.gate == Verdict::Open { Ended::Well } else { Ended::Shut })
}
