//! What is kept of every row, where it becomes too much for memory.

/// Where bytes are put that memory has no room for.
pub trait Aside: Sync {
    /// What can go wrong with it.
    type Error: Send;

    /// How many bytes may stay in memory.
    fn room(&self) -> usize;

    /// Puts bytes aside; gives where they are.
    ///
    /// # Errors
    /// When they cannot be kept.
    fn put(&self, bytes: &[u8]) -> Result<u64, Self::Error>;

    /// Reads what was put aside at this place.
    ///
    /// # Errors
    /// When it cannot be read again.
    fn get(&self, place: u64, into: &mut [u8]) -> Result<(), Self::Error>;
}
