//! Where a key of a file stands that was written at another place, from the shape of the file itself.

use schemars::JsonSchema;
use serde_json::Value;

/// The tables of a shape that have this key, as a file heads them, those near its top first: `[read]`, `[[field]]`,
/// `` `range` of [[field]] ``; three at most.
pub(crate) fn of_key<R: JsonSchema>(key: &str) -> Vec<String> {
    let schema = schemars::schema_for!(R);
    let root = schema.as_value();
    let mut found = Vec::new();
    look(root, root, key, &mut Vec::new(), &mut found);
    found.sort();
    found.dedup();
    found.into_iter().take(3).map(|(_, home)| home).collect()
}

/// Looks at what a table may hold, and at the tables in it. `path` is how it is reached, each step with whether several stand
/// there; what is found has its depth.
fn look(
    root: &Value,
    table: &Value,
    key: &str,
    path: &mut Vec<(String, bool)>,
    found: &mut Vec<(usize, String)>,
) {
    // Deeper than any file is written, so that a shape which holds itself comes to an end.
    if path.len() > 4 {
        return;
    }
    let table = resolved(root, table);
    for option in
        ["anyOf", "oneOf", "allOf"].into_iter().filter_map(|name| table.get(name)?.as_array()).flatten()
    {
        look(root, option, key, path, found);
    }
    let properties = table.get("properties").and_then(Value::as_object);
    if properties.is_some_and(|properties| properties.contains_key(key)) && !path.is_empty() {
        found.push((path.len(), headed(path)));
    }
    let named = properties.into_iter().flatten().map(|(name, inner)| (name.as_str(), inner));
    let any = table.get("additionalProperties").filter(|any| any.is_object()).map(|any| ("NAME", any));
    for (name, inner) in named.chain(any) {
        let inner = resolved(root, inner);
        let items = inner.get("items");
        path.push((name.to_owned(), items.is_some()));
        look(root, items.unwrap_or(inner), key, path, found);
        path.pop();
    }
}

/// How a file heads what is reached so.
fn headed(path: &[(String, bool)]) -> String {
    let joined =
        |steps: &[(String, bool)]| steps.iter().map(|step| step.0.as_str()).collect::<Vec<_>>().join(".");
    match path.iter().position(|step| step.1).map(|several| path.split_at(several + 1)) {
        None => format!("[{}]", joined(path)),
        Some((table, [])) => format!("[[{}]]", joined(table)),
        Some((table, inner)) => format!("`{}` of [[{}]]", joined(inner), joined(table)),
    }
}

fn resolved<'a>(root: &'a Value, shape: &'a Value) -> &'a Value {
    let name = shape.get("$ref").and_then(Value::as_str).and_then(|path| path.strip_prefix('#'));
    name.and_then(|path| root.pointer(path)).unwrap_or(shape)
}
