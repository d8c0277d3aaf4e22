//! What the fuzz targets have found, once more.

use crate::tool::project;

#[path = "../../../../fuzz/bodies/book.rs"]
mod book;
#[path = "../../../../fuzz/bodies/schema.rs"]
mod schema;
#[path = "../../../../fuzz/bodies/sources.rs"]
mod sources;
#[path = "../../../../fuzz/bodies/text.rs"]
mod text;
#[path = "../../../../fuzz/bodies/values.rs"]
mod values;

#[test]
fn every_find_is_survived() {
    type Body = fn(&[u8]);
    let bodies = [
        ("book", book::run as Body),
        ("text", text::run),
        ("schema", schema::run),
        ("sources", sources::run),
        ("values", values::run),
    ];
    for (name, body) in bodies {
        let mut seen = 0;
        for entry in std::fs::read_dir(project().join("fuzz/finds").join(name)).unwrap() {
            body(&std::fs::read(entry.unwrap().path()).unwrap());
            seen += 1;
        }
        assert!(seen > 0, "{name}");
    }
}
