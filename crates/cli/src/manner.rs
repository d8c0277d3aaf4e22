//! How much is said, and in which colours.

use crate::args::{Cli, ColorArg};
use crate::render;
use anstream::ColorChoice;
use env_logger::{Builder, Target};
use log::LevelFilter;
use std::io::Write as _;
use std::time::{Duration, Instant};

/// Takes up what was stated.
pub(crate) fn take(cli: &Cli) {
    match cli.color {
        ColorArg::Auto => {}
        ColorArg::Always => ColorChoice::Always.write_global(),
        ColorArg::Never => ColorChoice::Never.write_global(),
    }
    if cli.quiet {
        render::be_quiet();
    }
    let level = match cli.verbose {
        0 => return,
        1 => LevelFilter::Info,
        _ => LevelFilter::Debug,
    };
    let mut builder = Builder::new();
    builder.filter_module("tidy_gate", level).target(Target::Stderr);
    builder.format(|out, record| writeln!(out, "{}", crate::terminal::shown(&record.args().to_string())));
    // It is begun once.
    let _ = builder.try_init();
}

/// The stages of a run, each with the time it took.
#[derive(Debug)]
pub(crate) struct Stages {
    began: Instant,
    last: Instant,
}

impl Stages {
    pub(crate) fn begin() -> Self {
        let now = Instant::now();
        Self { began: now, last: now }
    }

    /// A stage has ended.
    pub(crate) fn done(&mut self, what: &str) {
        let now = Instant::now();
        let took = now - self.last;
        // What took no time was not asked for.
        let level = if took < Duration::from_micros(50) { log::Level::Debug } else { log::Level::Info };
        log::log!(level, "{}  {what}", time(took));
        self.last = now;
    }

    /// All have.
    pub(crate) fn end(&self) {
        log::info!("{}  in all", time(self.began.elapsed()));
    }
}

fn time(time: Duration) -> String {
    match time.as_millis() {
        0..10_000 => format!("{:>8.1} ms", time.as_secs_f64() * 1e3),
        _ => format!("{:>8.1} s ", time.as_secs_f64()),
    }
}
