//! What may be asked of existing records.

use super::keys::Keys;
use super::probe::Probe;
use super::row::ExistingRow;
use std::fmt::Debug;

/// Existing records, found by their key: the standard forms of its parts, as [`crate::gate::RecordsOf::key`] gives them.
pub trait Existing: Debug + Send + Sync {
    /// The record of this key.
    fn row(&self, key: &[u8]) -> Option<ExistingRow<'_>>;

    /// The record of this number among those that are kept, from 0: in the order of their source.
    fn numbered(&self, number: u32) -> Option<ExistingRow<'_>>;

    /// Hands on the records of all these keys, row by row.
    fn rows<'a>(&'a self, keys: &Keys, found: &mut dyn FnMut(Option<ExistingRow<'a>>)) {
        keys.iter().for_each(|key| found(key.and_then(|(_, key)| self.row(key))));
    }

    /// The line of this key in the record of this key, where several rows make a record: then [`Existing::row`] gives
    /// what the record has of its own.
    fn line(&self, key: &[u8], line: &[u8]) -> Option<ExistingRow<'_>>;

    /// Whether there is a record of this key.
    fn has(&self, key: &[u8]) -> bool {
        self.row(key).is_some()
    }

    /// How many records there are.
    fn count(&self) -> u64;

    /// The sum of the hashes of all their keys, which is the same in whatever order they come.
    fn key_sum(&self) -> u128;

    /// How many of them have a key that another has, among those that were looked for.
    fn repeated(&self) -> u64;

    /// How many of them have no key, and can be met by no row.
    fn keyless(&self) -> u64;

    /// Whether the field of this number is known of them.
    fn knows(&self, field: usize) -> bool;

    /// The place of a field among those that are kept.
    fn place(&self, field: usize) -> Option<usize>;

    /// How the cells of a field are read, as [`super::Former::way`] gives it.
    fn way(&self, field: usize) -> Option<String>;

    /// The only key that differs from a text by a slip.
    fn nearest(&self, key: &str) -> Option<&str>;

    /// How many of them the file does not speak of, of those that it may change; nothing where that is not known.
    fn unmentioned(&self) -> Option<u64>;

    /// The keys of those, where they were to be listed.
    fn unmentioned_keys(&self) -> Vec<&[u8]>;

    /// What is looked for among them beside keys.
    fn probes(&self) -> &[Probe];

    /// The key of a record that has these values, of the probe of this number.
    fn holder(&self, probe: usize, values: &[u8]) -> Option<&[u8]>;

    /// What they were read from, for messages.
    fn source(&self) -> &str;
}
