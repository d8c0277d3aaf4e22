//! The template that a file was filled on.

use tidy_gate_core::catalogue::{Code, Level};
use tidy_gate_core::finding::Finding;
use tidy_gate_core::schema::RecordSchema;

/// The record and the version that a template was made for.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct TemplateOf {
    pub(crate) record: String,
    pub(crate) version: String,
}

/// What is to be said of a template that was made for another record or another version of it.
pub(crate) fn outdated(template: &TemplateOf, schema: &RecordSchema) -> Option<Finding> {
    let version = schema.version.as_deref().unwrap_or_default();
    let message = if template.record != schema.record {
        format!(
            "the file was filled on a template of the record {}, not of {}",
            template.record, schema.record
        )
    } else if template.version != version {
        let named = |version: &str| {
            if version.is_empty() { "no version".to_owned() } else { format!("version {version}") }
        };
        format!(
            "the file was filled on a template of {}; the record schema is now of {}",
            named(&template.version),
            named(version)
        )
    } else {
        return None;
    };
    Some(Finding::new(Code::TemplateOutdated, Level::Warn, message))
}
