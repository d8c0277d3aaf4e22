//! Fields that a plan names.

use crate::fault::Fault;
use crate::likeness;
use crate::schema::RecordSchema;

/// The field of this name, or a fault with the nearest one.
pub(super) fn field_of(
    name: &str,
    span: &std::ops::Range<usize>,
    schema: &RecordSchema,
    faults: &mut Vec<Fault>,
) -> Option<usize> {
    let found = schema.field(name);
    if found.is_none() {
        let fault = Fault::new(span.clone(), format!("the record has no field `{name}`"));
        let by_label = schema.fields.iter().find(|field| field.label == name).map(|field| &field.name);
        let names = schema.fields.iter().map(|field| (field.name.as_str(), &field.name));
        faults.push(match by_label.or_else(|| likeness::nearest(name, names)) {
            Some(near) => fault.help(format!("did you mean `{near}`?")),
            None => fault.help("use the `name` of a field, not its label"),
        });
    }
    found
}
