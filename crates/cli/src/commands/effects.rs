//! `effects`: what loading the ready rows would do to the records that are there.

use super::check::{Listed, check};
use super::limits::nothing_known;
use crate::args::{CheckFormatArg, EffectsArgs};
use crate::ended::Ended;
use crate::render::story::{self, Context};
use crate::render::{self, json, text};
use tidy_gate_core::report::Verdict;

pub(crate) fn run(args: &EffectsArgs) -> anyhow::Result<Ended> {
    let (report, written) = check(
        &args.check,
        Listed { changes: args.rows.as_deref(), missing: args.missing.as_deref(), streams: false },
    )?;
    let Some(effects) = &report.effects else { return Err(nothing_known(&args.check).into()) };
    let text = match args.check.format {
        CheckFormatArg::Json => json::pretty(effects)?,
        CheckFormatArg::Ndjson => json::line(effects)?,
        CheckFormatArg::Text => {
            let context = Context::new(&args.check, &written, true);
            text::effects(&report, effects, &context, crate::terminal::width())
        }
    };
    render::to_stdout_beside(&text, &written)?;
    if report.gate == Verdict::Open {
        return Ok(Ended::Well);
    }
    render::aside_when_quiet(&story::said_shut(&report, &args.check.file));
    Ok(Ended::Shut)
}
