//! The report in SARIF 2.1.0 (OASIS, Static Analysis Results Interchange Format), for tools that show results of reviews.

use crate::render::words::place as cell;
use serde::Serialize;
use std::collections::BTreeMap;
use tidy_gate_core::catalogue::{Code, Level, entry};
use tidy_gate_core::finding::Finding;
use tidy_gate_core::report::{Report, Verdict};

/// The name under which marks of findings are kept, with the version of how they are made.
const MARKS: &str = "tidyGate/v1";

/// A log file (SARIF, 3.13).
#[derive(Debug, Serialize)]
pub(super) struct Log {
    #[serde(rename = "$schema")]
    schema: &'static str,
    version: &'static str,
    runs: [Run; 1],
}

/// A run (3.14).
#[derive(Debug, Serialize)]
#[serde(rename_all = "camelCase")]
struct Run {
    tool: Tool,
    invocations: [Invocation; 1],
    artifacts: [Artifact; 1],
    column_kind: &'static str,
    results: Vec<Result>,
    properties: BTreeMap<&'static str, serde_json::Value>,
}

#[derive(Debug, Serialize)]
struct Tool {
    driver: Driver,
}

/// The tool component (3.19).
#[derive(Debug, Serialize)]
#[serde(rename_all = "camelCase")]
struct Driver {
    name: String,
    semantic_version: String,
    rules: Vec<Rule>,
}

/// A reporting descriptor (3.49).
#[derive(Debug, Serialize)]
#[serde(rename_all = "camelCase")]
struct Rule {
    id: &'static str,
    short_description: Text,
    full_description: Text,
    help: Text,
    default_configuration: Configuration,
}

#[derive(Debug, Serialize)]
struct Configuration {
    level: &'static str,
}

/// An invocation (3.20).
#[derive(Debug, Serialize)]
#[serde(rename_all = "camelCase")]
struct Invocation {
    execution_successful: bool,
    exit_code: u8,
}

/// An artifact (3.24).
#[derive(Debug, Serialize)]
struct Artifact {
    location: Location,
    length: u64,
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    hashes: BTreeMap<&'static str, String>,
}

#[derive(Debug, Serialize)]
struct Location {
    uri: String,
    #[serde(skip_serializing_if = "Option::is_none")]
    index: Option<u8>,
}

/// A result (3.27).
#[derive(Debug, Serialize)]
#[serde(rename_all = "camelCase")]
struct Result {
    rule_id: &'static str,
    rule_index: usize,
    level: &'static str,
    message: Text,
    locations: [Place; 1],
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    partial_fingerprints: BTreeMap<&'static str, String>,
}

#[derive(Debug, Serialize)]
#[serde(rename_all = "camelCase")]
struct Place {
    physical_location: Physical,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    logical_locations: Vec<Logical>,
}

#[derive(Debug, Serialize)]
#[serde(rename_all = "camelCase")]
struct Physical {
    artifact_location: Location,
    #[serde(skip_serializing_if = "Option::is_none")]
    region: Option<Region>,
}

/// A region of text (3.30); lines and columns count from 1, and the end is behind the last character.
#[derive(Debug, Serialize)]
#[serde(rename_all = "camelCase")]
struct Region {
    start_line: u64,
    #[serde(skip_serializing_if = "Option::is_none")]
    start_column: Option<u64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    end_line: Option<u64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    end_column: Option<u64>,
}

/// A logical location (3.33): a cell, as a spreadsheet names it.
#[derive(Debug, Serialize)]
#[serde(rename_all = "camelCase")]
struct Logical {
    name: String,
    fully_qualified_name: String,
}

#[derive(Debug, Serialize)]
struct Text {
    text: String,
}

impl Text {
    fn of(text: impl Into<String>) -> Self {
        Self { text: text.into() }
    }
}

/// The report as a log of one run; the file as it was named.
pub(super) fn sarif(report: &Report, file: &str) -> Log {
    let mut codes: Vec<Code> = report.totals.iter().map(|total| total.code).collect();
    codes.extend(report.findings.iter().map(|finding| finding.code));
    codes.sort_unstable();
    codes.dedup();
    let hashes = report.file.sha256.iter().map(|sha256| ("sha-256", sha256.clone())).collect();
    let artifact =
        Artifact { location: Location { uri: uri(file), index: None }, length: report.file.bytes, hashes };
    let properties = BTreeMap::from([
        ("gate", if report.gate == Verdict::Open { "open" } else { "shut" }.into()),
        ("record", report.record.name.clone().into()),
        ("rows", report.counts.rows.into()),
        ("held", report.counts.held.into()),
        ("findingsLeftOut", report.findings_left_out.into()),
    ]);
    let is_shut = report.gate == Verdict::Shut;
    Log {
        schema: "https://json.schemastore.org/sarif-2.1.0.json",
        version: "2.1.0",
        runs: [Run {
            tool: Tool {
                driver: Driver {
                    name: report.tool.name.clone(),
                    semantic_version: report.tool.version.clone(),
                    rules: codes.iter().copied().map(rule).collect(),
                },
            },
            invocations: [Invocation { execution_successful: true, exit_code: u8::from(is_shut) }],
            artifacts: [artifact],
            column_kind: "unicodeCodePoints",
            results: report
                .findings
                .iter()
                .enumerate()
                .map(|(number, finding)| result(report, number, finding, (file, &codes)))
                .collect(),
            properties,
        }],
    }
}

fn rule(code: Code) -> Rule {
    let of = entry(code);
    Rule {
        id: code.name(),
        short_description: Text::of(of.title),
        full_description: Text::of(of.why),
        help: Text::of(of.remedy),
        default_configuration: Configuration { level: level(of.level) },
    }
}

const fn level(level: Level) -> &'static str {
    match level {
        Level::Stop => "error",
        Level::Warn => "warning",
        Level::Note => "note",
    }
}

fn result(report: &Report, number: usize, finding: &Finding, (file, codes): (&str, &[Code])) -> Result {
    let said = finding.sentence();
    let heading = finding.heading.as_deref().or(finding.field.as_deref()).filter(|name| !name.is_empty());
    let place = heading.map(|heading| format!("{heading}: ")).unwrap_or_default();
    let value = finding.value.as_deref().filter(|value| !value.is_empty());
    let value = value.map(|value| format!(" (\"{value}\")")).unwrap_or_default();
    let near = finding.suggestion.as_deref().map(|near| format!("; perhaps {near}")).unwrap_or_default();
    let cell = cell(finding);
    let logical = cell.map(|name| {
        let whole = finding.sheet.as_ref().map_or_else(|| name.clone(), |sheet| format!("{sheet}!{name}"));
        Logical { name, fully_qualified_name: whole }
    });
    let region = finding.line.map(|line| match report.regions.get(&number) {
        Some(region) => Region {
            start_line: line + region.start.0,
            start_column: Some(region.start.1),
            end_line: Some(line + region.end.0),
            end_column: Some(region.end.1),
        },
        None => Region { start_line: line, start_column: None, end_line: None, end_column: None },
    });
    Result {
        rule_id: finding.code.name(),
        rule_index: codes.iter().position(|code| *code == finding.code).unwrap_or_default(),
        level: level(finding.level),
        message: Text::of(format!("{place}{said}{value}{near}")),
        locations: [Place {
            physical_location: Physical {
                artifact_location: Location { uri: uri(file), index: Some(0) },
                region,
            },
            logical_locations: logical.into_iter().collect(),
        }],
        partial_fingerprints: finding
            .fingerprint
            .map(|mark| (MARKS, format!("{mark:016x}")))
            .into_iter()
            .collect(),
    }
}

/// A path as a URI reference (RFC 3986): what is no unreserved character is written in hexadecimal digits.
fn uri(path: &str) -> String {
    let mut uri = String::new();
    // What stands before a first colon would be taken for a scheme.
    let is_file = path.starts_with('/');
    for byte in path.replace('\\', "/").bytes() {
        match byte {
            b'A'..=b'Z' | b'a'..=b'z' | b'0'..=b'9' | b'-' | b'.' | b'_' | b'~' | b'/' => {
                uri.push(char::from(byte))
            }
            byte => uri.push_str(&format!("%{byte:02X}")),
        }
    }
    if is_file { format!("file://{uri}") } else { uri }
}
