//! The drop-downs of columns that hold one value of a picklist.

use crate::book::DropDown;
use tidy_gate_core::gate::Gate;
use tidy_gate_core::headings::Paired;
use tidy_gate_core::template::{Holds, Template};

/// More values than this are no drop-down.
const MOST_VALUES: usize = 10_000;

/// One for each column of a picklist, with what a template offers for it.
pub(super) fn of(gate: &Gate) -> Vec<DropDown> {
    let schema = gate.schema();
    let columns = gate.pairing().columns.iter().enumerate();
    let fields: Vec<(usize, usize)> = columns
        .filter_map(|(column, paired)| match paired {
            Paired::Field { field, .. } => Some((column, *field)),
            _ => None,
        })
        .collect();
    let numbers: Vec<usize> = fields.iter().map(|field| field.1).collect();
    let template = Template::new(schema, &numbers, gate.settings().mode);
    let named = |field: usize| {
        let name = schema.fields.get(field).map(|field| field.name.as_str());
        template.columns.iter().find(|column| Some(column.name.as_str()) == name)
    };
    fields
        .iter()
        .filter_map(|(column, field)| match named(*field)?.holds {
            Holds::List(list, is_open) => {
                let values = template.lists.get(list)?.1.iter().map(|value| value.0.clone()).collect();
                Some(DropDown { column: *column, values, is_open })
            }
            _ => None,
        })
        .filter(|list| (1..=MOST_VALUES).contains(&list.values.len()))
        .collect()
}
