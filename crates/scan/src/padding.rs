//! Room behind the content of buffers.

/// Bytes that must follow the content of every buffer handed to this crate: scanners load whole vectors
/// and read past the last cell.
pub const PADDING: usize = 64;
