//! Worlds by chance: a schema, a plan and a table, from pools of cells that people write.

use super::model::{CLEAR, Field, HIGHEST, Kind, LONGEST, Outside, Required, SHORTEST, Stands, World};
use crate::round_trips::Dice;

const KINDS: [Kind; 11] = [
    Kind::Text,
    Kind::Code,
    Kind::Integer,
    Kind::Decimal,
    Kind::Boolean,
    Kind::Date,
    Kind::Time,
    Kind::Picklist,
    Kind::Reference,
    Kind::Email,
    Kind::Uuid,
];

/// Cells that people write for a kind: sound ones first, then what is not.
fn pool(kind: Kind) -> (&'static [&'static str], &'static [&'static str]) {
    match kind {
        Kind::Text => (
            &["Oak", " Elm ", "Mill Ln", "007", "Ångström", "x;y", "a, b", "say \"go\"", "TRUE", "1.50"],
            &["W", "Weißdornhecke", "far too long"],
        ),
        Kind::Code => (&["HT42", "AB00", " ZZ99 "], &["ht42", "HT4", "HT421", "42HT", "ÄB12"]),
        Kind::Integer => (
            &["7", "007", "+5", "0", "12", "500", "00120", "41"],
            &[
                "4.0", "4,0", "1e3", "x", "--5", "501", "-1", "3-", "(4)", "1,000", "1.000", "½", "4 trees",
                "",
            ],
        ),
        Kind::Decimal => (
            &["12", "0", "-3", "7-", "(4)", "+8", "1200", "0012", "100", "-0"],
            &[
                "12.5", "12,5", ".5", ",5", "1,234.5", "1.234,5", "12.", "1,23,456", "1.23.456", "0.125",
                "0,125", "1.5.2", "tall", "12.5 %", "€ 4", "1,2345", "12.50", "12,50", "-0.50", "+-3",
            ],
        ),
        Kind::Boolean => {
            (&["yes", "No", "TRUE", "false", "1", "0", "Y", "n"], &["maybe", "2", "x", "ja", "yes no"])
        }
        Kind::Date => (
            &["31/12/2023", "1/2/2023", "29/02/2024", "05/06/2024", "28/02/1999", " 03/04/2020 "],
            &[
                "29/02/2023",
                "31/06/2024",
                "00/01/2024",
                "12/31/2023",
                "31.12.2023",
                "2023-12-31",
                "soon",
                "1/2/3/4",
            ],
        ),
        Kind::Time => (
            &["9:30", "09:30:15", "23:59", "0:00", "00:00"],
            &["24:00", "9:5", "9.30", "noon", "12:60", "9:30:5"],
        ),
        Kind::Picklist => (
            &["E", "Excellent", "dead", " D ", "not  assessed", "N", "TOP", "e"],
            &["Goood", "G", "good", "F", "E.", "Exellent", "DE", "E, D"],
        ),
        Kind::Reference => (&["W07-MILL", " W07-ORCH", "0042"], &["w07-mill", "W09-KILN", "42", "W07 MILL"]),
        Kind::Email => (
            &["j.marsh@trees.example", "A@b.example"],
            &["j.marsh", "j@trees", "a b@c.example", "@trees.example", "a@b@c.example", "a@.example"],
        ),
        Kind::Uuid => (
            &["123E4567-e89b-12d3-a456-426614174000", "00000000-0000-0000-0000-00000000000f"],
            &["123e4567e89b12d3a456426614174000", "{x}", "123e4567-e89b-12d3-a456-42661417400g"],
        ),
    }
}

pub(super) fn world(dice: &mut Dice) -> World {
    let mut fields = vec![Field {
        name: "k".to_owned(),
        kind: dice.of(&[Kind::Text, Kind::Code, Kind::Integer, Kind::Date, Kind::Uuid]),
        required: Required::Always,
        default: None,
        many: false,
    }];
    for number in 0..3 + dice.below(6) {
        let kind = dice.of(&KINDS);
        fields.push(Field {
            name: format!("f{number}"),
            kind,
            required: dice.of(&[Required::No, Required::No, Required::Always, Required::Adding]),
            default: match (kind, dice.below(4)) {
                (Kind::Integer, 0) => Some("3"),
                (Kind::Picklist, 0) => Some("N"),
                (Kind::Boolean, 0) => Some("false"),
                (Kind::Text, 0) => Some("none"),
                _ => None,
            },
            many: matches!(kind, Kind::Picklist | Kind::Reference) && dice.below(3) == 0,
        });
    }
    // Of the first two fields without a default, of one kind where that matters.
    let pair = |fits: &dyn Fn(&Field, &Field) -> bool| -> Option<[usize; 2]> {
        let numbers = 1..fields.len();
        let pairs = numbers.clone().flat_map(|one| numbers.clone().map(move |other| [one, other]));
        pairs.into_iter().find(|[one, other]| one != other && fits(&fields[*one], &fields[*other]))
    };
    let single = |field: &Field| !field.many;
    let free = |field: &Field| field.default.is_none();
    let key = if dice.below(3) == 0 && single(&fields[1]) && free(&fields[1]) { vec![0, 1] } else { vec![0] };
    let unique = pair(&|one, other| single(one) && single(other)).filter(|_| dice.below(2) == 0);
    let together = pair(&|one, other| free(one) && free(other)).filter(|_| dice.below(2) == 0);
    let ordered = pair(&|one, other| {
        one.kind == other.kind && matches!(one.kind, Kind::Integer | Kind::Decimal | Kind::Date)
    });
    let dead = pair(&|list, other| {
        list.kind == Kind::Picklist && !list.many && free(other) && other.required == Required::No
    })
    .filter(|_| dice.below(2) == 0);
    for place in &key {
        fields[*place].required = Required::Always;
    }
    World {
        key,
        unique,
        together,
        ordered,
        dead,
        updating: dice.below(3) == 0,
        comma: dice.below(2) == 0,
        dates_of_plan: dice.below(2) == 0,
        dash_is_blank: dice.below(3) == 0,
        clears: dice.below(3) == 0,
        stands: dice.of(&[Stands::None, Stands::None, Stands::First, Stands::Last]),
        scope: fields
            .iter()
            .position(|field| field.kind == Kind::Picklist && !field.many)
            .filter(|_| dice.below(3) == 0)
            .map(|field| (field, dice.of(&[Outside::Hold, Outside::LeaveOut]))),
        fields,
    }
}

/// The world as a record schema.
pub(super) fn schema(world: &World) -> String {
    let names = |fields: &[usize]| {
        let names: Vec<_> = fields.iter().map(|field| format!("\"{}\"", world.fields[*field].name)).collect();
        format!("[{}]", names.join(", "))
    };
    let mut toml = format!("format = 1\nrecord = \"t\"\nkey = {}\n", names(&world.key));
    if let Some(unique) = &world.unique {
        toml.push_str(&format!("unique = [{}]\n", names(unique)));
    }
    for field in &world.fields {
        let kind = match field.kind {
            Kind::Text => format!("\"text\"\nlength = {{ min = {SHORTEST}, max = {LONGEST} }}"),
            Kind::Code => "\"text\"\ncase = \"upper\"\npattern = \"[A-Z]{2}[0-9]{2}\"".to_owned(),
            Kind::Integer => format!("\"integer\"\nrange = {{ min = 0, max = {HIGHEST} }}"),
            Kind::Decimal => "\"decimal\"\ndigits = { after = 2 }".to_owned(),
            Kind::Date if world.dates_of_plan => "\"date\"".to_owned(),
            Kind::Date => "\"date\"\ndates = [\"dd/MM/yyyy\"]".to_owned(),
            Kind::Picklist => "\"picklist\"\npicklist = \"p\"".to_owned(),
            Kind::Reference => "\"reference\"\nto = \"site\"".to_owned(),
            other => format!("\"{}\"", format!("{other:?}").to_lowercase()),
        };
        toml.push_str(&format!("[[field]]\nname = \"{}\"\nkind = {kind}\n", field.name));
        match field.required {
            Required::No => {}
            Required::Always => toml.push_str("required = true\n"),
            Required::Adding => toml.push_str("required = \"add\"\n"),
        }
        if let Some(default) = field.default {
            toml.push_str(&format!("default = \"{default}\"\n"));
        }
        if field.many {
            toml.push_str("many = { separator = \";\", max = 3 }\n");
        }
    }
    if world.fields.iter().any(|field| field.kind == Kind::Picklist) {
        toml.push_str(
            "[picklist.p]\nvalues = [{ code = \"E\", label = \"Excellent\", also = [\"top\"] }, { code = \"D\", label = \"Dead\" },\n\
             { code = \"N\", label = \"Not assessed\" }, { code = \"G\", label = \"Good\", retired = true }]\n",
        );
    }
    if let Some(together) = &world.together {
        toml.push_str(&format!("[[together]]\nname = \"both\"\nfields = {}\n", names(together)));
    }
    if let Some([one, other]) = world.ordered {
        let (one, other) = (&world.fields[one].name, &world.fields[other].name);
        toml.push_str(&format!("[[rule]]\nname = \"in order\"\nmust = \"{one} <= {other}\"\n"));
    }
    if let Some([list, other]) = world.dead {
        let (list, other) = (&world.fields[list].name, names(&[other]));
        toml.push_str(&format!(
            "[[rule]]\nname = \"of the dead\"\nwhen = \"{list} = 'D'\"\nrequire = {other}\n"
        ));
    }
    toml
}

/// What the plan says of the file.
pub(super) fn plan(world: &World) -> String {
    let marks = if world.comma { (",", ".") } else { (".", ",") };
    let mut plan =
        format!("format = 1\n[read]\ndecimal_mark = \"{}\"\ngroup_mark = \"{}\"\n", marks.0, marks.1);
    if world.dates_of_plan {
        plan.push_str("dates = [\"dd/MM/yyyy\"]\n");
    }
    if world.dash_is_blank {
        plan.push_str("blank = [\"-\"]\n");
    }
    if world.clears {
        plan.push_str(&format!("clear = \"{CLEAR}\"\n"));
    }
    match world.stands {
        Stands::None => {}
        Stands::First => plan.push_str("[repeats]\nstands = \"first\"\n"),
        Stands::Last => plan.push_str("[repeats]\nstands = \"last\"\n"),
    }
    if let Some((field, outside)) = world.scope {
        let outside = if outside == Outside::Hold { "hold" } else { "leave-out" };
        let name = &world.fields[field].name;
        plan.push_str(&format!("[scope]\nwhere = \"{name} = 'E'\"\noutside = \"{outside}\"\n"));
    }
    plan
}

/// A table of the world: most cells sound, some blank, some wrong.
pub(super) fn rows(world: &World, dice: &mut Dice) -> Vec<Vec<String>> {
    let cell = |field: &Field, dice: &mut Dice| {
        let (sound, wrong) = pool(field.kind);
        let one =
            |dice: &mut Dice| if dice.below(30) == 0 { dice.of(wrong) } else { dice.of(sound) }.to_owned();
        match dice.below(20) {
            0 => dice.of(&["", " ", "", "-", CLEAR, "(Empty)"]).to_owned(),
            _ if field.many => {
                let parts: Vec<String> = (0..1 + dice.below(4)).map(|_| one(dice)).collect();
                parts.join(dice.of(&[";", "; ", ";", ";;"]))
            }
            _ => one(dice),
        }
    };
    (0..4 + dice.below(9)).map(|_| world.fields.iter().map(|field| cell(field, dice)).collect()).collect()
}
