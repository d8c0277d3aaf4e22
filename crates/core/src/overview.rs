//! A look at a judged file as a whole: where along it rows are held, and what its columns hold.

use crate::block::Block;
use crate::gate::Gate;
use crate::profile::{ColumnProfile, Profiler};
use crate::run::{BlockSource, Outcome};

/// The file is parted into so many stretches at most.
const STRETCHES: u64 = 60;
/// So many cells are looked at; of a larger file some blocks, evenly spread.
const MOST_CELLS: u64 = 200_000;

/// A look at a judged file as a whole.
#[derive(Debug, Default)]
pub struct Overview {
    /// The stretches of the file, one behind the other.
    pub along: Vec<Stretch>,
    /// What each column holds; of a sensitive field no value.
    pub columns: Vec<ColumnProfile>,
    /// How many rows were looked at for that.
    pub rows: u64,
    /// Whether these are all.
    pub is_whole: bool,
}

/// A stretch of rows one behind the other.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Stretch {
    /// The first row.
    pub first: u64,
    /// The last row.
    pub last: u64,
    /// How many of its rows are held.
    pub held: u64,
}

impl Overview {
    /// Looks at a file that has been judged.
    ///
    /// # Errors
    /// When it cannot be read again.
    pub fn of<S: BlockSource>(source: &S, gate: &Gate, outcome: &Outcome) -> Result<Self, S::Error> {
        let table = gate.table();
        let profiler = Profiler::new(&table.headings, table.dialect, 0, gate.settings().today);
        let mut profiler = profiler.filling_short_rows(table.short_rows_are_blank).with_spreads();
        let blocks = outcome.extents.blocks();
        let rows: u64 = blocks.iter().map(|extent| extent.rows).sum();
        let most = (MOST_CELLS / table.headings.len().max(1) as u64).max(200);
        let pieces = if rows <= most { blocks.to_vec() } else { outcome.extents.spread(most) };
        let mut block = Block::default();
        for piece in &pieces {
            source.again(piece, &mut block)?;
            profiler.look_at(&block);
        }
        let seen = profiler.rows();
        let (mut columns, _) = profiler.finish();
        for (number, column) in columns.iter_mut().enumerate() {
            column.filled = outcome.filled.get(number).copied().unwrap_or(column.filled);
            if gate.is_sensitive(number) {
                column.hide();
            }
        }
        Ok(Self { along: along(outcome, rows), columns, rows: seen, is_whole: rows <= most })
    }
}

/// How many rows are held in each stretch.
fn along(outcome: &Outcome, rows: u64) -> Vec<Stretch> {
    let blocks = outcome.extents.blocks();
    let Some(first_row) = blocks.first().map(|extent| extent.first_row) else { return Vec::new() };
    let step = rows.div_ceil(STRETCHES).max(1);
    let last_row = first_row + rows.saturating_sub(1);
    let stretch = |number: u64| Stretch {
        first: first_row + number * step,
        last: (first_row + (number + 1) * step - 1).min(last_row),
        held: 0,
    };
    let mut along: Vec<Stretch> = (0..rows.div_ceil(step)).map(stretch).collect();
    for (number, extent) in blocks.iter().enumerate() {
        if !outcome.all_held && !outcome.held.any_in(number) {
            continue;
        }
        for place in 0..extent.rows {
            if outcome.all_held || outcome.held.is_held(number, place) {
                let at = usize::try_from((extent.first_row + place - first_row) / step).unwrap_or(0);
                along.get_mut(at).into_iter().for_each(|stretch| stretch.held += 1);
            }
        }
    }
    along
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::gate::Settings;
    use crate::mode::Mode;
    use crate::profile::Spread;
    use crate::run::{self, RowsInMemory, Unlisted, Unwatched};
    use crate::schema::{NoLists, RecordSchema};
    use crate::table::Table;
    use crate::value::Date;

    /// A table of so many rows, of which every hundredth in the second half is held.
    fn overview(rows: u64) -> (Overview, Outcome) {
        let schema = "format = 1\nrecord = \"r\"\n[[field]]\nname = \"n\"\nkind = \"integer\"\nsensitive = true\n\
                      [[field]]\nname = \"day\"\nkind = \"date\"\n";
        let schema = RecordSchema::read(schema, &mut NoLists).unwrap();
        let table = Table::with_headings(vec!["n".to_owned(), "day".to_owned()]);
        let mut gate = Gate::new(schema, Settings::plain(Mode::Add, Date::new(2026, 11, 29).unwrap()), table);
        let row = |n: u64| match n % 100 == 99 && n >= rows / 2 {
            true => format!("x,20{:02}-01-01\n", n % 90 + 10),
            false => format!("{n},20{:02}-01-01\n", n % 90 + 10),
        };
        let text: String = (0..rows).map(row).collect();
        let source = RowsInMemory::new(text.as_bytes(), 2);
        let mut begin = || Ok(None::<Unlisted>);
        let (outcome, _) = run::check(&mut gate, &source, 1, &Unwatched, &mut begin).unwrap();
        (Overview::of(&source, &gate, &outcome).unwrap(), outcome)
    }

    #[test]
    fn stretches_part_the_rows_and_values_are_those_of_a_share() {
        for rows in [1, 59, 60, 61, 5_000, 120_000] {
            let (overview, outcome) = overview(rows);
            let along = &overview.along;
            assert!(along.len() <= 60 && along[0].first == 2, "{rows}");
            assert!(along.windows(2).all(|pair| pair[0].last + 1 == pair[1].first), "{rows}");
            assert_eq!(along.last().unwrap().last, rows + 1);
            assert_eq!(along.iter().map(|stretch| stretch.held).sum::<u64>(), outcome.counts.held, "{rows}");
            // All rows are looked at, or about as many as are meant.
            assert_eq!(overview.is_whole, rows <= 100_000);
            match overview.is_whole {
                true => assert_eq!(overview.rows, rows),
                false => assert!((90_000..=110_000).contains(&overview.rows), "{}", overview.rows),
            }
            let [number, day] = overview.columns.as_slice() else { unreachable!("two columns") };
            assert_eq!((number.filled, day.filled), (rows, rows));
            // What is sensitive shows no value.
            assert_eq!((&number.range, &number.spread), (&None, &Spread::Nothing));
            if rows >= 5_000 {
                let Spread::Values(bins) = &day.spread else { unreachable!("days are spread over a range") };
                assert_eq!(bins.iter().sum::<u64>(), overview.rows);
                assert!(bins.iter().all(|count| *count > 0));
                assert_eq!(day.range.as_ref().map(|range| range.0.as_str()), Some("2010-01-01"));
            }
        }
    }
}
