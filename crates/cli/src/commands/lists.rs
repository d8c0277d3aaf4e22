//! The lists of all findings: one in a file, one on standard output.

use crate::failure::is_closed_pipe;
use std::io::Write as _;
use tidy_gate_core::finding::Finding;
use tidy_gate_core::gate::Gate;
use tidy_gate_core::report::Report;
use tidy_gate_core::run::{self, FindingSink, Outcome};
use tidy_gate_files::{Error, FindingsFile, Output, TableFile};

/// The lists that are wanted, while rows go by.
#[derive(Debug)]
pub(super) struct Lists {
    file: Option<FindingsFile>,
    stream: Option<FindingsFile>,
}

impl Lists {
    /// New ones; nothing where none is wanted.
    pub(super) fn begin(file: Option<&Output>, streams: bool) -> Result<Option<Self>, Error> {
        let file = file.map(FindingsFile::new).transpose()?;
        let stream = streams.then(FindingsFile::stream).transpose()?;
        Ok((file.is_some() || stream.is_some()).then_some(Self { file, stream }))
    }

    /// Writes the lists, with what only the end of the file could tell in its place.
    pub(super) fn write(
        self,
        output: Option<&mut Output>,
        (file, gate, outcome): (&TableFile, &Gate, &Outcome),
        report: &Report,
    ) -> Result<(), Error> {
        let besides = besides(gate, outcome, report);
        let repeats = |take: &mut dyn FnMut(&Finding) -> Result<bool, Error>| {
            run::each_repeat(gate, file, outcome, take)
        };
        if let (Some(list), Some(output)) = (self.file, output) {
            list.write(&mut |bytes| output.write(bytes), &besides, repeats)?;
        }
        let Some(list) = self.stream else { return Ok(()) };
        let mut stdout = std::io::BufWriter::new(std::io::stdout().lock());
        let done = |written: std::io::Result<()>| match written {
            // A reader that has gone away is no error.
            Err(error) if !is_closed_pipe(&error) => Err(Error::write("standard output".as_ref(), error)),
            _ => Ok(()),
        };
        list.write(&mut |bytes| done(stdout.write_all(bytes)), &besides, repeats)?;
        done(stdout.flush())
    }
}

impl FindingSink<Error> for Lists {
    fn take(&mut self, finding: &Finding) -> Result<(), Error> {
        self.file.iter_mut().chain(&mut self.stream).try_for_each(|list| list.take(finding))
    }
}

/// The findings that stand in no row that is judged, in order.
fn besides(gate: &Gate, outcome: &Outcome, report: &Report) -> Vec<Finding> {
    let mut besides = gate.opening_of(&outcome.filled);
    besides.extend(outcome.late.iter().cloned());
    if outcome.counts.records() == 0 {
        let of_file = report.findings.iter().filter(|finding| finding.row.is_none());
        let of_file: Vec<Finding> = of_file.filter(|finding| !besides.contains(finding)).cloned().collect();
        besides.extend(of_file);
    }
    besides.sort_by_key(Finding::order);
    besides
}
