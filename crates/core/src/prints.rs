//! What a report carries so that a later one can follow its findings and rows: salted marks of eight bytes each, which
//! show no key, and marks of what the file was judged by; and what the later one says of the earlier.

mod basis;
mod groups;
mod marks;
mod salt;
mod since;

pub use basis::{Basis, BasisPart};
pub use groups::Group;
pub use marks::{FindingPrints, Fingerprints, RowPrints, read, written};
pub use salt::{Salt, hex};
pub use since::{CauseSince, Change, EarlierFinding, GroupSince, RowsSince, Since, SinceFile};
