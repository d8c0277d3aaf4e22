//! Records that refer to each other in a circle.

use super::compiled::Compiled;
use super::key_values::values_of;
use super::mark::Mark;
use crate::block::Block;
use crate::catalogue::{Code, entry};
use crate::finding::Finding;
use crate::rows::Cells;

impl Compiled {
    /// Marks the references that close a circle.
    pub(super) fn mark_cycles(&self, block: &Block, cells: &Cells, key: &mut Vec<u8>, marks: &mut Vec<Mark>) {
        let Some(cycles) = &self.settings.cycles else { return };
        let level = self.told_level(Code::ReferenceCycle, entry(Code::ReferenceCycle).level);
        for (field, rounds) in cycles.rounds.iter().filter(|(_, rounds)| !rounds.is_empty()) {
            let Some(column) = self.column_of(*field) else { continue };
            for row in 0..cells.len() {
                self.own_key(block, cells, row, key);
                let is_in = std::str::from_utf8(key).is_ok_and(|key| rounds.contains_key(key));
                if is_in && !cells.bytes(block, row, column).is_empty() {
                    marks.push(Mark::at(cells, row, column + 1, Code::ReferenceCycle, level));
                }
            }
        }
    }

    /// Writes the key of a row, or else what stands for it.
    fn own_key(&self, block: &Block, cells: &Cells, row: usize, into: &mut Vec<u8>) {
        self.key_values(block, cells, row, into);
        for column in self.schema.also_by.iter().filter_map(|field| self.column_of(*field)) {
            if into.is_empty() {
                values_of(self, &[column], (false, false), (block, cells, row), into);
            }
        }
    }

    /// Says which records the circle holds.
    pub(super) fn describe_cycle(&self, mark: Mark, block: &Block, cells: &Cells, finding: &mut Finding) {
        let Some(cycles) = &self.settings.cycles else { return };
        let mut key = Vec::new();
        self.own_key(block, cells, mark.row as usize, &mut key);
        let column = usize::from(mark.column).saturating_sub(1);
        let field = self.pairing.column_of.iter().position(|at| *at == Some(column));
        let rounds = field.and_then(|field| cycles.rounds.get(&field));
        let shown = std::str::from_utf8(&key).ok().and_then(|key| rounds?.get(key));
        let is_masked = self.is_sensitive(column)
            || self
                .schema
                .key
                .iter()
                .any(|field| self.schema.fields.get(*field).is_some_and(|field| field.sensitive));
        finding.set_value(
            &self.texts(block, cells, mark.row as usize, &[column]).concat(),
            self.is_sensitive(column),
        );
        finding.message = match shown {
            Some(shown) if !is_masked => format!("the records refer to each other in a circle: {shown}"),
            _ => "the records refer to each other in a circle".to_owned(),
        };
    }
}
