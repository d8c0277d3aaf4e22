//! A receipt held against what there is now, drawn.

use crate::render::words::counted;
use crate::terminal::{BAD, FAINT, GOOD, HEAD, OPEN, SHUT, padded, paint, shown};
use std::path::Path;
use tidy_gate_core::receipt::{Judgement, Verified};

/// Draws what of a receipt is as it was.
pub(crate) fn receipt(verified: &Verified, file: &Path, width: usize) -> String {
    let differs = verified.aspects.iter().filter(|aspect| aspect.judgement == Judgement::Differs).count();
    let name = shown(&file.display().to_string());
    let (word, style, said) = match verified.valid {
        true => (" RECEIPT VALID ", OPEN, format!("{name} is what passed on {}.", shown(&verified.made))),
        false => {
            let what = counted(differs as u64, "thing differs", "things differ");
            (" RECEIPT VOID ", SHUT, format!("{name} must not be loaded on this receipt: {what}."))
        }
    };
    let mut lines = vec![String::new()];
    for (number, line) in textwrap::wrap(&said, width.saturating_sub(word.len() + 3)).iter().enumerate() {
        let word = if number == 0 { paint(word, style) } else { " ".repeat(word.len()) };
        lines.push(format!(" {word}  {}", paint(line, HEAD)));
    }
    lines.push(String::new());
    let widest = verified.aspects.iter().map(|aspect| aspect.what.chars().count()).max().unwrap_or(0).min(30);
    for aspect in &verified.aspects {
        let (mark, style) = match aspect.judgement {
            Judgement::Same => ("same      ", GOOD),
            Judgement::Differs => ("differs   ", BAD),
            Judgement::NotJudged => ("not judged", FAINT),
        };
        let what = padded(&shown(&aspect.what), widest);
        let room = width.saturating_sub(3 + 10 + 2 + widest + 2).max(20);
        for (number, line) in textwrap::wrap(&shown(&aspect.said), room).iter().enumerate() {
            lines.push(match number {
                0 => format!("   {}  {what}  {line}", paint(mark, style)),
                _ => format!("   {}{line}", " ".repeat(10 + 2 + widest + 2)),
            });
        }
    }
    lines.iter().map(|line| format!("{}\n", line.trim_end())).collect()
}
