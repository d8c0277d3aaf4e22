//! References of a record to itself: held against the keys of the file and of the records that are there, with the cycles
//! that they make.

use super::source::BlockSource;
use crate::block::Block;
use crate::existing::Former;
use crate::gate::{Cycles, Gate, RecordsOf, RunState};
use crate::schema::{Kind, RecordSchema, References, Refers};
use std::collections::{HashMap, HashSet};
use std::sync::Arc;

/// The keys of a record, what may stand for them, and which record each refers to.
#[derive(Debug)]
pub struct OwnReferences {
    references: References,
    /// The fields that refer to the record itself, with what each record has in them.
    parents: Vec<(usize, HashMap<String, String>)>,
    /// The keys that the file holds.
    of_file: HashSet<String>,
}

impl OwnReferences {
    /// None yet; nothing where the record has no field that refers to itself, or no key of one part.
    #[must_use]
    pub fn of(schema: &RecordSchema) -> Option<Self> {
        let is_own = |kind: &Kind| matches!(kind, Kind::Reference(to) if *to == schema.record);
        let fields = schema.fields.iter().enumerate().filter(|(_, field)| is_own(&field.kind));
        let parents: Vec<_> = fields.map(|(number, _)| (number, HashMap::new())).collect();
        let source = format!("{} itself", schema.record);
        (!parents.is_empty() && schema.key.len() == 1).then(|| Self {
            references: References::from_source(source),
            parents,
            of_file: HashSet::new(),
        })
    }

    /// Reads a table for which this gate was compiled: records that are there, or the file, which stands over them.
    ///
    /// # Errors
    /// When it cannot be read to its end.
    pub fn read<S: BlockSource>(&mut self, gate: &Gate, source: &S, is_file: bool) -> Result<(), S::Error> {
        let state = RunState::default();
        let mut records = RecordsOf::new(gate, &state);
        let also = records.columns(&gate.schema().also_by);
        let also: Vec<(usize, usize)> = gate
            .schema()
            .also_by
            .iter()
            .zip(also)
            .filter_map(|(field, column)| Some((*field, column?)))
            .collect();
        let (mut block, mut key) = (Block::default(), Vec::new());
        while source.next(&mut block)? {
            // A last row that sums the others is no record.
            if gate.may_be_total(&block) {
                continue;
            }
            for row in 0..records.read(&block) {
                let value = |field: usize, column: usize| {
                    let value = gate.formed(field, records.cell(&block, row, column))?;
                    Some(value.into_owned()).filter(|value| !value.is_empty())
                };
                let words: Vec<String> =
                    also.iter().filter_map(|(field, column)| value(*field, *column)).collect();
                let own = match records.key(&block, row, &mut key) {
                    true => String::from_utf8_lossy(&key).into_owned(),
                    // The target will number it: until then something else stands for it.
                    false => match words.first() {
                        Some(word) => word.clone(),
                        None => continue,
                    },
                };
                self.references.add(&own, &words);
                for (field, parents) in &mut self.parents {
                    let column = records.columns(&[*field]).first().copied().flatten();
                    if let Some(parent) = column.and_then(|column| value(*field, column)) {
                        parents.insert(own.clone(), parent);
                    }
                }
                if is_file {
                    self.of_file.insert(own);
                }
            }
        }
        Ok(())
    }

    /// What references are held against, and the cycles in which a record of the file stands.
    #[must_use]
    pub fn finish(self) -> (Arc<References>, Cycles) {
        let references = Arc::new(self.references);
        let resolved = |text: &str| match references.find(text) {
            Refers::Through(key) => key.to_owned(),
            _ => text.to_owned(),
        };
        let mut cycles = Cycles::default();
        for (field, parents) in &self.parents {
            let mut done: HashSet<&str> = HashSet::new();
            for start in &self.of_file {
                let mut way: Vec<String> = vec![start.clone()];
                while let Some(parent) =
                    way.last().and_then(|last| parents.get(last)).map(|text| resolved(text))
                {
                    if let Some(at) = way.iter().position(|one| *one == parent) {
                        let round = way.get(at..).unwrap_or_default();
                        cycles.add(*field, round, &self.of_file);
                        break;
                    }
                    if done.contains(parent.as_str()) || way.len() > MOST_LEVELS {
                        break;
                    }
                    way.push(parent);
                }
                done.insert(start);
            }
        }
        (references, cycles)
    }
}

/// More levels than this are not followed.
const MOST_LEVELS: usize = 10_000;
