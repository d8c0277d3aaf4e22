//! The cells of a row, hashed one by one, so that a row is known without any of them at once.

use super::row_sets::RowSet;
use crate::gate::RowView;
use crate::prints::Salt;
use xxhash_rust::xxh3::{xxh3_64, xxh3_64_with_seed, xxh3_128_with_seed};

/// The fields whose cells tell rows apart.
#[derive(Debug, Default)]
pub(super) struct Content {
    fields: Vec<Field>,
    /// What the marks of rows are salted with here.
    seed: u64,
}

#[derive(Debug)]
struct Field {
    name: String,
    /// A field of an earlier report may have no column any more.
    column: Option<usize>,
    seed: u64,
}

/// The cells of a row.
#[derive(Debug)]
pub(super) struct RowContent {
    /// Of each field the hash of its value; nothing where it is blank.
    cells: Vec<Option<u128>>,
}

impl Content {
    pub(super) fn of(fields: impl Iterator<Item = (String, Option<usize>)>, salt: Salt) -> Self {
        let field = |(name, column): (String, Option<usize>)| {
            let seed = xxh3_64(name.as_bytes());
            Field { name, column, seed }
        };
        Self { fields: fields.map(field).collect(), seed: salt.mark([b"cells".as_slice()]) }
    }

    /// The names of the fields.
    pub(super) fn names(&self) -> Vec<String> {
        self.fields.iter().map(|field| field.name.clone()).collect()
    }

    pub(super) fn has(&self, name: &str) -> bool {
        self.fields.iter().any(|field| field.name == name)
    }

    /// The cells of a row, by their values and not by how they are written.
    pub(super) fn row(&self, row: &RowView<'_>) -> RowContent {
        let cell = |field: &Field| {
            let text = row.standard(field.column?);
            (!text.is_empty()).then(|| xxh3_128_with_seed(&text, field.seed))
        };
        RowContent { cells: self.fields.iter().map(cell).collect() }
    }

    /// How many cells are filled, without those of some fields.
    pub(super) fn filled(&self, row: &RowContent, without: &[String]) -> usize {
        self.cells(row, without).count()
    }

    /// The mark of a row by its cells, without those of some fields; by its bytes where nothing is left.
    pub(super) fn mark(
        &self,
        salt: Salt,
        row: &RowContent,
        without: &[String],
        raw: &[u8],
        key: &[u8],
    ) -> u64 {
        if row.cells.iter().all(Option::is_none) {
            return salt.mark([b"raw".as_slice(), raw]);
        }
        let sum = self.cells(row, without).fold(0, u128::wrapping_add);
        // Every row is marked for every set of an earlier report: a quick hash, of twice as many bits as it has.
        let mut bytes = sum.to_le_bytes().to_vec();
        bytes.extend(key);
        xxh3_64_with_seed(&bytes, self.seed)
    }

    fn cells<'a>(&'a self, row: &'a RowContent, without: &'a [String]) -> impl Iterator<Item = u128> + 'a {
        let of = self.fields.iter().zip(&row.cells);
        of.filter(|(field, _)| !without.contains(&field.name)).filter_map(|(_, cell)| *cell)
    }
}

/// Whether any of these sets asks for cells.
pub(super) fn asks_for_cells(sets: &[RowSet]) -> bool {
    sets.iter().any(|set| set.without.is_some())
}
