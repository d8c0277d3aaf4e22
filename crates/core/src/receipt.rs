//! Receipts: a small text that says which bytes passed, judged by what; and whether other bytes are those.

mod judge;
mod keys;
mod model;
mod seal;

pub use judge::{Aspect, Judgement, Verified};
pub use keys::{KeyFault, PrivateKey, PublicKey};
pub use model::{Counts, FileProof, KeysProof, Receipt, RecordProof, Signature, Tolerances};
pub use seal::ReceiptFault;
