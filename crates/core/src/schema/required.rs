//! Whether a record must have a field.

/// Whether a record must have a field.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Required {
    /// It may be blank.
    #[default]
    No,
    /// The record must have it always: when updating, a blank cell leaves what it has.
    Always,
    /// The cell must be filled always, when updating too.
    Filled,
    /// When the record is added.
    WhenAdding,
    /// A blank is a warning.
    Advised,
}
