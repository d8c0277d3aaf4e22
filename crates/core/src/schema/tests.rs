use super::*;

const HEAD: &str = "format = 1\nrecord = \"tree\"\n";

/// Each fault as "line: the marked text | message | help".
fn faults(text: &str) -> String {
    let faults = RecordSchema::read(text, &mut NoLists).map(|_| ()).unwrap_err();
    let line = |fault: &Fault| text[..fault.span.start].matches('\n').count() + 1;
    let shown = |fault: &Fault| {
        let marked = text[fault.span.clone()].lines().next().unwrap_or_default().to_owned();
        format!("{}: {marked} | {} | {}\n", line(fault), fault.message, fault.help.as_deref().unwrap_or("-"))
    };
    faults.iter().map(shown).collect()
}

#[test]
fn every_fault_is_told_at_once_with_its_place() {
    let text = r#"format = 1
record = "tree"
key = ["tag_nr", "site"]
unique = [["tag_no", "tag_no"]]
owner = "parks"

[[field]]
name = "tag_no"
kind = "txet"
requird = true

[[field]]
name = "girth"
kind = "decimal"
range = { min = 10, max = 1 }
digits = { befor = 4 }
default = "thick"

[[field]]
name = "girth"
kind = "integer"
range = { min = "low" }
required = "often"

[[field]]
name = "note"
kind = "text"
pattern = "[a-"
length = { min = 9, max = 3 }
digits = { after = 1 }
sensitive = "yes"

[[field]]
name = "planted"
kind = "date"
dates = ["dd/mm/yyyy"]
range = { min = 2020-02-30, max = "today" }
"#;
    insta::assert_snapshot!(faults(text), @r#"
    3: "tag_nr" | `key` names `tag_nr`, which is no field | did you mean `tag_no`?
    3: "site" | `key` names `site`, which is no field | use the `name` of a field, not its label
    4: "tag_no" | `tag_no` stands twice in `unique` | -
    5: owner | there is no key `owner` here | permitted: format, record, label, version, key, unique, also_by, alike, field, picklist, rule, together, combination, lines
    9: "txet" | `txet` is not permitted here | did you mean `text`?
    10: requird | there is no key `requird` here | did you mean `required`?
    15: { min = 10, max = 1 } | the range is upside down: from 10 to 1 | change the two about
    16: befor | there is no key `befor` here | did you mean `before`?
    17: "thick" | the default of `girth` is no value of kind decimal | write it as a sound cell would hold it
    20: "girth" | two fields have the same name: `girth` and `girth` | a heading could not be told to belong to one of them; case, spaces and punctuation do not count
    22: "low" | an end of the range is not a whole number | -
    23: "often" | found the text "often", expected true, false, "add", "advised" or "always" | -
    28: "[a-" | the pattern is not a regular expression: unclosed character class | patterns are regular expressions that the whole value must match, such as "HT-[0-9]{7}"
    29: { min = 9, max = 3 } | the length is upside down: at least 9, at most 3 | change the two about
    30: { after = 1 } | `digits` is no key of a field of kind text | it belongs to kind decimal
    31: "yes" | found the text "yes", expected true or false | -
    36: "dd/mm/yyyy" | `m` is not a part of a date; days are `d`, months `M`, years `y`, other letters stand in '…' | -
    37: 2020-02-30 | invalid date, expected day between 01 and 29 | -
    "#);
    let text = text.replace("2020-02-30", "\"soon\"");
    insta::assert_snapshot!(faults(&text), @r#"
    3: "tag_nr" | `key` names `tag_nr`, which is no field | did you mean `tag_no`?
    3: "site" | `key` names `site`, which is no field | use the `name` of a field, not its label
    4: "tag_no" | `tag_no` stands twice in `unique` | -
    5: owner | there is no key `owner` here | permitted: format, record, label, version, key, unique, also_by, alike, field, picklist, rule, together, combination, lines
    9: "txet" | `txet` is not permitted here | did you mean `text`?
    10: requird | there is no key `requird` here | did you mean `required`?
    15: { min = 10, max = 1 } | the range is upside down: from 10 to 1 | change the two about
    16: befor | there is no key `befor` here | did you mean `before`?
    17: "thick" | the default of `girth` is no value of kind decimal | write it as a sound cell would hold it
    20: "girth" | two fields have the same name: `girth` and `girth` | a heading could not be told to belong to one of them; case, spaces and punctuation do not count
    22: "low" | an end of the range is not a whole number | -
    23: "often" | found the text "often", expected true, false, "add", "advised" or "always" | -
    28: "[a-" | the pattern is not a regular expression: unclosed character class | patterns are regular expressions that the whole value must match, such as "HT-[0-9]{7}"
    29: { min = 9, max = 3 } | the length is upside down: at least 9, at most 3 | change the two about
    30: { after = 1 } | `digits` is no key of a field of kind text | it belongs to kind decimal
    31: "yes" | found the text "yes", expected true or false | -
    36: "dd/mm/yyyy" | `m` is not a part of a date; days are `d`, months `M`, years `y`, other letters stand in '…' | -
    37: "soon" | an end of the range is not a day such as "1850-01-01", or "today" | -
    "#);
}

#[test]
fn slips_of_a_beginner_are_told_once_and_with_the_remedy() {
    let slips = [
        "format = 1\nrecord = \"t\"\nkey = \"k\"\n[[field]]\nname = \"k\"\nkind = text\n",
        "record = \"t\"\n[field]\nname = \"k\"\nkind = \"text\"\n",
        "format = 2\nrecord = \"t\"\n[[field]]\nname = \"k\"\nkind = \"picklist\"\npicklist = \"p\"\n[picklist.p]\nvalues = [\"a\"]\n",
        "format = 1\nrecord = \"t\"\nkey = [\"k\"]\n[[field]]\nname = k\nkind = \"picklist\"\npicklist = \"p\"\n[picklist.p\n",
        "format = 1\nrecord = \"t\"\n[[field]]\nname = \"k\"\nkind = \"text\"\nlength = 5\n[[field]]\nkind = \"txt\"\n",
        "format = 1\nrecord = \"t\"\nwhen = \"k = 1\"\nmin = 3\n[[field]]\nname = \"k\"\nkind = \"text\"\nmust = \"k = 1\"\n",
    ];
    insta::assert_snapshot!(slips.map(faults).join("--\n"), @r#"
    3: "k" | found the text "k", expected a list in [ ] | write ["k"]
    6: text | `text` is no value of TOML | a text stands in quotes: "text"
    --
    1:  | `format` is missing | add `format = 1`
    2: [field] | found a table, expected a list in [ ] | each one begins with two brackets: [[field]]
    --
    1: 2 | format 2 is not known | this version reads `format = 1`
    8: "a" | found the text "a", expected a table | a table is written as { key = value, … }
    --
    5: k | `k` is no value of TOML | a text stands in quotes: "k"
    8:  | unclosed table, expected `]` | -
    --
    6: 5 | found the number `5`, expected a table | a table is written as { key = value, … }
    7: [[field]] | a field without a `name` | add the target's own technical name
    8: "txt" | `txt` is not permitted here | did you mean `text`?
    --
    3: when | there is no key `when` here | `when` stands under [[rule]]
    4: min | there is no key `min` here | `min` stands under [lines.count] or `length` of [[field]] or `range` of [[field]]
    8: must | there is no key `must` here | `must` stands under [[rule]]
    "#);
}

#[test]
fn lists_and_names_must_tell_things_apart() {
    let text = format!(
        "{HEAD}key = []\n{}",
        r#"
[[field]]
name = "Tag No"
kind = "text"
default = "x"

[[field]]
name = "tag_no"
label = "Site"
kind = "picklist"
picklist = "conditon"

[[field]]
name = "site"
label = "SITE"
kind = "picklist"

[picklist.condition]
values = [{ code = "E", label = "Good" }, { code = "G", label = "Good" }, { code = "E" }, { label = "x" }]

[picklist.empty]

[picklist.far]
file = "far.csv"

[[rule]]
name = "x"
"#
    );
    insta::assert_snapshot!(faults(&text), @r#"
    3: [] | `key` names no field | name one at least, or leave `key` out
    11: "tag_no" | two fields have nearly the same name: `Tag No` and `tag_no` | a heading could not be told to belong to one of them; case, spaces and punctuation do not count
    14: "conditon" | there is no picklist `conditon` | did you mean `condition`?
    16: [[field]] | the field `site` of kind picklist names no picklist | add `picklist = "NAME"` and a `[picklist.NAME]`
    18: "SITE" | two fields have nearly the same label: `Site` and `SITE` | a heading could not be told to belong to one of them; case, spaces and punctuation do not count
    22: { code = "G", label = "Good" } | `Good` is two labels of the picklist `condition` | take one of them out, or give it another word
    22: { code = "E" } | `E` is two codes of the picklist `condition` | take one of them out, or give it another word
    22: { label = "x" } | a value without a code | give it `code`, what the target stores
    24: [picklist.empty] | the picklist `empty` has no values | give it `values` or a `file`, or let it be `open = true`
    27: "far.csv" | the values of `far` cannot be read: far.csv cannot be read here | the path is relative to the record schema
    29: [[rule]] | the rule "x" asks nothing | add one of `require`, `forbid` and `must`
    "#);
}

#[test]
fn a_sound_schema_is_read_whole() {
    let text = format!(
        "{HEAD}key = [\"a\"]\n{}",
        r#"
[[field]]
name = "a"
kind = "integer"
required = "add"

[[field]]
name = "b"
kind = "reference"
to = "site"
many = { separator = ";" }

[[field]]
name = "c"
kind = "boolean"
default = "No"
"#
    );
    let schema = RecordSchema::read(&text, &mut NoLists).unwrap();
    assert_eq!((schema.label.as_str(), schema.key.as_slice()), ("tree", &[0][..]));
    assert_eq!(schema.fields[0].required, Required::WhenAdding);
    assert_eq!(schema.fields[1].stated.to.as_deref(), Some("site"));
    assert_eq!(schema.fields[2].default.as_deref(), Some("No"));
}
