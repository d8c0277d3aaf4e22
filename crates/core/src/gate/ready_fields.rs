//! The fields that ready rows carry, and the columns of ready files.

use super::assembly::Gate;
use super::form::Form;
use super::kinds::Program;

/// A field that ready rows carry: from a column, with a default, or both.
#[derive(Debug)]
pub struct ReadyField {
    /// The number of the field.
    pub field: usize,
    /// The heading that it gets.
    pub heading: String,
    pub(super) column: Option<usize>,
    /// What fills blank cells, in the form in which it is handed on.
    pub default: Option<String>,
    pub(super) form: Form,
}

impl Gate {
    /// The fields that ready rows carry, in the schema's order.
    #[must_use]
    pub fn ready_fields(&self) -> Vec<ReadyField> {
        let plan = &self.settings.plan;
        let fields = self.schema.fields.iter().enumerate().filter(|(_, field)| !field.read_only);
        fields
            // By what stands for the key a record is found.
            .filter(|(number, _)| plan.is_in_scope(*number) || self.schema.also_by.contains(number))
            .filter_map(|(number, field)| {
                let column = self.pairing.column_of.get(number).copied().flatten();
                let default = field.default.as_deref().filter(|_| self.settings.mode.adds());
                let form = Form::of(field, &plan.write);
                let default = default.and_then(|default| {
                    // A default is written in the schema's own form.
                    let program = Program::own(field, &self.schema, &self.settings);
                    Some(self.formed(&form, default.into(), &program)?.into_owned())
                });
                (column.is_some() || default.is_some()).then(|| ReadyField {
                    field: number,
                    heading: if plan.write.labels { field.label.clone() } else { field.name.clone() },
                    column,
                    default,
                    form,
                })
            })
            .collect()
    }
}

impl Gate {
    /// The columns of ready files, in their order; one that holds nothing has a field that there is not.
    #[must_use]
    pub fn written_fields(&self) -> Vec<ReadyField> {
        let mut carried = self.ready_fields();
        let Some(columns) = &self.settings.plan.write.columns else { return carried };
        let mut written = Vec::new();
        for column in columns {
            let at = carried.iter().position(|ready| Some(ready.field) == column.field);
            let of_field = column.field.and_then(|field| self.schema.fields.get(field));
            let heading = match (&column.heading, of_field) {
                (Some(heading), _) => heading.clone(),
                (None, Some(field)) if self.settings.plan.write.labels => field.label.clone(),
                (None, field) => field.map(|field| field.name.clone()).unwrap_or_default(),
            };
            let blank = ReadyField {
                field: usize::MAX,
                heading: String::new(),
                column: None,
                default: None,
                form: Form::Standard,
            };
            let ready = at.map_or(blank, |at| carried.remove(at));
            written.push(ReadyField { heading, ..ready });
        }
        written
    }

    /// The names of the fields that ready rows carry and that have no column in ready files.
    #[must_use]
    pub fn unwritten_fields(&self) -> Vec<String> {
        let Some(columns) = &self.settings.plan.write.columns else { return Vec::new() };
        let is_unwritten =
            |ready: &ReadyField| columns.iter().all(|column| column.field != Some(ready.field));
        let fields = self.ready_fields().into_iter().filter(is_unwritten);
        fields.filter_map(|ready| Some(self.schema.fields.get(ready.field)?.name.clone())).collect()
    }
}
