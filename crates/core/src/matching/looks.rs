//! Words that nobody has decided yet, written into a plan as comments to look at.

use crate::gate::{Taken, ValueTold};
use crate::numerals::grouped;
use crate::toml_text::{bare_or_quoted, quoted};
use schemars::JsonSchema;
use serde::Serialize;
use toml_edit::DocumentMut;

/// The different values of a field's column.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct FieldValues {
    /// The field's name.
    pub field: String,
    /// The values: those that are open first, then the most frequent.
    pub values: Vec<ValueTold>,
    /// How many cells hold values beyond those that were counted.
    pub uncounted: u64,
}

/// What begins a proposal.
const LOOK: &str = "# LOOK:";

/// The text of a plan with the words that are open under `[values.FIELD]`, each as a comment with its likely value: taken
/// out of the comment, it holds. What stands there already, decided or not, is left alone.
#[must_use]
pub fn looked_up(text: &str, values: &[FieldValues]) -> String {
    let mut text = text.to_owned();
    for of_field in values {
        let proposals = proposals(&text, of_field);
        if proposals.is_empty() {
            continue;
        }
        let heading = format!("[values.{}]", bare_or_quoted(&of_field.field));
        let at = text.lines().position(|line| is_heading(line, &of_field.field));
        let mut lines: Vec<String> = text.lines().map(str::to_owned).collect();
        match at {
            Some(at) => drop(lines.splice(at + 1..at + 1, proposals)),
            None => {
                if lines.last().is_some_and(|last| !last.trim().is_empty()) {
                    lines.push(String::new());
                }
                lines.push(heading);
                lines.extend(proposals);
            }
        }
        text = lines.join("\n") + "\n";
    }
    text
}

/// The lines of what is open and not yet in the plan.
fn proposals(text: &str, of_field: &FieldValues) -> Vec<String> {
    let plan: Option<DocumentMut> = text.parse().ok();
    let known = |word: &str| {
        let table = plan.as_ref().and_then(|plan| plan.get("values")?.get(&of_field.field));
        table.is_some_and(|table| table.get(word).is_some())
    };
    let open = of_field.values.iter().filter(|value| value.how == Taken::Open && !known(&value.value));
    let line = |value: &ValueTold| {
        let to = value.likely.first().map(String::as_str).unwrap_or_default();
        let to = match to {
            "true" | "false" => to.to_owned(),
            to => quoted(to),
        };
        let proposal = format!("{LOOK} {} = {to}", quoted(&value.value));
        (!text.contains(&format!("{proposal} "))).then(|| format!("{proposal}  # {}", grouped(value.count)))
    };
    open.filter_map(line).collect()
}

fn is_heading(line: &str, field: &str) -> bool {
    let line = line.split('#').next().unwrap_or_default();
    let name = line.trim().strip_prefix('[').and_then(|line| line.strip_suffix(']'));
    let name: String = name.unwrap_or_default().chars().filter(|c| !c.is_whitespace()).collect();
    name.strip_prefix("values.").is_some_and(|name| name.trim_matches('"') == field)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_open_is_proposed_once_and_nothing_is_overwritten() {
        let open = |value: &str, likely: &[&str]| ValueTold {
            value: value.to_owned(),
            count: 3,
            how: Taken::Open,
            code: None,
            likely: likely.iter().map(ToString::to_string).collect(),
            finding: None,
        };
        let values = [FieldValues {
            field: "species".to_owned(),
            values: vec![open("Silver \"brich\"", &["BET"]), open("Oka", &["OAK"]), open("ja", &["true"])],
            uncounted: 0,
        }];
        let plan = "format = 1\n\n[values.species]  # ours\n\"Oka\" = \"OAK\"\n";
        let once = looked_up(plan, &values);
        let wanted = "format = 1\n\n[values.species]  # ours\n# LOOK: \"Silver \\\"brich\\\"\" = \"BET\"  # 3\n\
                      # LOOK: \"ja\" = true  # 3\n\"Oka\" = \"OAK\"\n";
        assert_eq!(once, wanted);
        assert_eq!(looked_up(&once, &values), once);
        assert!(looked_up("format = 1\n", &values).ends_with("\n\n[values.species]\n# LOOK: \"Silver \\\"brich\\\"\" = \"BET\"  # 3\n# LOOK: \"Oka\" = \"OAK\"  # 3\n# LOOK: \"ja\" = true  # 3\n"));
    }
}
