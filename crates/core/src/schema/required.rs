//! Whether a record must have a field.

/// Whether a record must have a field.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Required {
    /// It may be blank.
    #[default]
    No,
    /// Always.
    Always,
    /// When the record is added.
    WhenAdding,
    /// A blank is a warning.
    Advised,
}
