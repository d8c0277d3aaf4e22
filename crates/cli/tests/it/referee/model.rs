//! What a table comes to, worked out the plainest way from the pages of the documentation: cell by cell, row by row,
//! every row held against every other.

use std::collections::BTreeSet;

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Kind {
    Text,
    /// Upper case, two letters and two digits.
    Code,
    Integer,
    Decimal,
    Boolean,
    Date,
    Time,
    Picklist,
    Reference,
    Email,
    Uuid,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Required {
    No,
    Always,
    Adding,
}

#[derive(Debug, Clone)]
pub(super) struct Field {
    pub(super) name: String,
    pub(super) kind: Kind,
    pub(super) required: Required,
    pub(super) default: Option<&'static str>,
    /// Several values with `;` between them, at most three.
    pub(super) many: bool,
}

/// A schema, a plan and what loading does.
#[derive(Debug, Clone)]
pub(super) struct World {
    pub(super) fields: Vec<Field>,
    pub(super) key: Vec<usize>,
    pub(super) unique: Option<[usize; 2]>,
    pub(super) together: Option<[usize; 2]>,
    /// The first is at most the second.
    pub(super) ordered: Option<[usize; 2]>,
    /// Where the first, a picklist, is `D`, the second is filled.
    pub(super) dead: Option<[usize; 2]>,
    pub(super) updating: bool,
    /// Whether the plan says that decimals stand behind a comma.
    pub(super) comma: bool,
    /// Whether dates are `dd/MM/yyyy` because the plan says so, and not the schema.
    pub(super) dates_of_plan: bool,
    /// Whether the plan says that `-` is a blank, in any field.
    pub(super) dash_is_blank: bool,
    /// Whether the plan says that `(empty)` empties a field.
    pub(super) clears: bool,
    /// Which of rows with the same key stands.
    pub(super) stands: Stands,
    /// Rows count only where this field, a picklist, is `E`.
    pub(super) scope: Option<(usize, Outside)>,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Stands {
    None,
    First,
    Last,
}

/// What becomes of rows that are out of scope.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Outside {
    Hold,
    LeaveOut,
}

pub(super) const CLEAR: &str = "(empty)";

/// Stops as "row field code"; of keys and rules the field does not count.
pub(super) type Stops = BTreeSet<(usize, String, String)>;

#[derive(Debug, Clone, PartialEq)]
enum Cell {
    Blank,
    /// Emptied on purpose.
    Clear,
    Good(String),
    Bad(Vec<&'static str>),
}

pub(super) const SHORTEST: usize = 2;
pub(super) const LONGEST: usize = 8;
pub(super) const HIGHEST: i128 = 500;
pub(super) const SITES: [&str; 3] = ["W07-MILL", "W07-ORCH", "0042"];

/// The rows that are ready, as they are written, and every stop.
pub(super) fn judge(world: &World, rows: &[Vec<String>]) -> (Vec<Vec<String>>, Stops) {
    let left_out = left_out(world, rows);
    let mut stops = Stops::new();
    let mut told =
        |row: usize, field: &str, code: &str| stops.insert((row, field.to_owned(), code.to_owned()));
    let mut judged: Vec<Vec<Cell>> = Vec::new();
    for (number, row) in rows.iter().enumerate() {
        let mut cells = Vec::new();
        for (place, (field, text)) in world.fields.iter().zip(row).enumerate() {
            let cell = in_force(world, place, text);
            // A blank cell of an update leaves the field as it is.
            let is_needed = field.required != Required::No && !world.updating;
            match &cell {
                Cell::Blank if world.key.contains(&place) => _ = told(number, "", "key-blank"),
                Cell::Blank if is_needed => _ = told(number, &field.name, "required-blank"),
                Cell::Bad(codes) => codes.iter().for_each(|code| _ = told(number, &field.name, code)),
                _ => {}
            }
            cells.push(cell);
        }
        if let Some((field, Outside::Hold)) = world.scope
            && !matches!(&cells[field], Cell::Good(value) if value == "E")
            && !matches!(cells[field], Cell::Bad(_))
        {
            told(number, "", "row-out-of-scope");
        }
        if let Some([one, other]) = world.together {
            // A cell with a fault is filled all the same; what is needed anyway is told once.
            let is_missing = |field: usize| {
                let is_blank = cells[field] == Cell::Blank && world.fields[field].required == Required::No;
                cells[field] == Cell::Clear || is_blank && !world.updating
            };
            let is_filled = |field: usize| matches!(cells[field], Cell::Good(_) | Cell::Bad(_));
            if is_missing(one) && is_filled(other) || is_missing(other) && is_filled(one) {
                told(number, "", "block-incomplete");
            }
        }
        if let Some([one, other]) = world.ordered
            && let (Cell::Good(low), Cell::Good(high)) = (&cells[one], &cells[other])
            && order(world.fields[one].kind, low) > order(world.fields[one].kind, high)
        {
            told(number, "", "rule-broken");
        }
        if let Some([list, other]) = world.dead
            && cells[list] == Cell::Good("D".to_owned())
            && (cells[other] == Cell::Clear
                || cells[other] == Cell::Blank
                    && !world.updating
                    && world.fields[other].required == Required::No)
        {
            told(number, "", "rule-required");
        }
        judged.push(cells);
    }
    let mut combinations = vec![(&world.key[..], "key-repeated")];
    if let Some(unique) = &world.unique {
        combinations.push((unique, "unique-repeated"));
    }
    for (fields, code) in combinations {
        let of_row = |number: usize| combined(world, fields, &rows[number]);
        for number in (0..rows.len()).filter(|number| !left_out.contains(number)) {
            let Some(own) = of_row(number) else { continue };
            let others = (0..rows.len()).filter(|other| *other != number && !left_out.contains(other));
            if others.into_iter().any(|other| of_row(other).as_ref() == Some(&own)) {
                told(number, "", code);
            }
        }
    }
    stops.retain(|stop| !left_out.contains(&stop.0));
    let ready = judged
        .into_iter()
        .enumerate()
        .filter(|(number, _)| !left_out.contains(number))
        .filter(|(number, _)| !stops.iter().any(|stop| stop.0 == *number));
    let written = |cell| match cell {
        Cell::Good(value) => value,
        Cell::Clear => CLEAR.to_owned(),
        _ => String::new(),
    };
    let ready = ready.map(|(_, row)| row.into_iter().map(written).collect()).collect();
    (ready, stops)
}

/// The rows that the plan leaves out: those out of scope, then those that give way to another of their key.
fn left_out(world: &World, rows: &[Vec<String>]) -> BTreeSet<usize> {
    let mut found = BTreeSet::new();
    if let Some((field, Outside::LeaveOut)) = world.scope {
        for (number, row) in rows.iter().enumerate() {
            match in_force(world, field, &row[field]) {
                Cell::Good(value) if value == "E" => {}
                // What cannot be read may be in scope.
                Cell::Bad(_) => {}
                _ => _ = found.insert(number),
            }
        }
    }
    let mut seen = BTreeSet::new();
    let numbers: Vec<usize> = match world.stands {
        Stands::None => return found,
        Stands::First => (0..rows.len()).collect(),
        Stands::Last => (0..rows.len()).rev().collect(),
    };
    for number in numbers {
        if !found.contains(&number)
            && combined(world, &world.key, &rows[number]).is_some_and(|key| !seen.insert(key))
        {
            found.insert(number);
        }
    }
    found
}

/// A cell with the default that fills it, and whether it may empty its field.
fn in_force(world: &World, field: usize, text: &str) -> Cell {
    let is_key = world.key.contains(&field);
    let field = &world.fields[field];
    match (of_field(world, field, text), field.default) {
        (Cell::Blank, Some(default)) if !world.updating => of_field(world, field, default),
        (Cell::Clear, _) if !world.updating || is_key || field.required == Required::Always => {
            Cell::Bad(vec!["clear-not-allowed"])
        }
        (cell, _) => cell,
    }
}

/// What a row is compared by: nothing where a part is blank or cannot be read. What is only not of its form, or too
/// large, is the same again all the same.
fn combined(world: &World, fields: &[usize], row: &[String]) -> Option<Vec<String>> {
    let value = |field: &usize| {
        let text = row[*field].trim();
        match (in_force(world, *field, text), world.fields[*field].kind) {
            (Cell::Good(value), _) => Some(value),
            (Cell::Bad(codes), Kind::Text | Kind::Code | Kind::Email) if codes != ["clear-not-allowed"] => {
                Some(text.to_owned())
            }
            (Cell::Bad(codes), Kind::Integer) if codes == ["out-of-range"] => {
                number(text, world.comma).map(|(digits, _)| digits.to_string())
            }
            (Cell::Bad(codes), Kind::Decimal) if codes == ["digits-too-many"] => {
                number(text, world.comma).map(|(digits, after)| written(digits, after))
            }
            (Cell::Bad(codes), Kind::Picklist) if codes == ["off-list-retired"] => Some("G".to_owned()),
            _ => None,
        }
    };
    fields.iter().map(value).collect()
}

/// A number in whose order the written values of a kind stand.
fn order(kind: Kind, value: &str) -> i128 {
    match kind {
        Kind::Integer => value.parse().unwrap(),
        Kind::Decimal => {
            let (whole, part) = value.split_once('.').unwrap_or((value, ""));
            let digits = format!("{whole}{part:0<9}");
            digits.parse().unwrap()
        }
        _ => {
            let mut parts: Vec<i128> = value.split(['/', '-']).map(|part| part.parse().unwrap()).collect();
            if value.contains('/') {
                parts.reverse();
            }
            parts[0] * 10_000 + parts[1] * 100 + parts[2]
        }
    }
}

fn of_field(world: &World, field: &Field, text: &str) -> Cell {
    let text = text.trim();
    if text.is_empty() || field.many && text.split(';').all(|part| part.trim().is_empty()) {
        return Cell::Blank;
    }
    if world.dash_is_blank && text == "-" {
        return Cell::Blank;
    }
    if world.clears && text.to_lowercase() == CLEAR {
        return Cell::Clear;
    }
    if !field.many {
        return of_kind(world, field.kind, text).map_or_else(|code| Cell::Bad(vec![code]), Cell::Good);
    }
    let mut found: Vec<String> = Vec::new();
    let mut codes = Vec::new();
    let parts: Vec<&str> = text.split(';').map(str::trim).filter(|part| !part.is_empty()).collect();
    for part in &parts {
        match of_kind(world, field.kind, part) {
            Err("off-list") if is_separated_otherwise(text) => codes.push("list-separator"),
            Err("off-list-retired") if found.contains(&"G".to_owned()) => {
                codes.extend(["off-list-retired", "list-repeated"]);
            }
            Err("off-list-retired") => {
                codes.push("off-list-retired");
                found.push("G".to_owned());
            }
            Err(code) => codes.push(code),
            Ok(value) if found.contains(&value) => codes.push("list-repeated"),
            Ok(value) => found.push(value),
        }
    }
    if parts.len() > 3 {
        codes.push("list-too-many");
    }
    if codes.is_empty() { Cell::Good(found.join(";")) } else { Cell::Bad(codes) }
}

fn is_separated_otherwise(text: &str) -> bool {
    [',', '|', '/'].iter().any(|mark| {
        text.contains(*mark)
            && !text.contains(';')
            && text.split(*mark).all(|part| listed(part.trim()).is_ok())
    })
}

fn of_kind(world: &World, kind: Kind, text: &str) -> Result<String, &'static str> {
    let letters = text.chars().count();
    match kind {
        Kind::Text if letters < SHORTEST => Err("text-too-short"),
        Kind::Text if letters > LONGEST => Err("text-too-long"),
        Kind::Text => Ok(text.to_owned()),
        Kind::Code => {
            let fits = |text: &str| {
                let letters: Vec<char> = text.chars().collect();
                letters.len() == 4
                    && letters[..2].iter().all(char::is_ascii_uppercase)
                    && letters[2..].iter().all(char::is_ascii_digit)
            };
            match (fits(text), fits(&text.to_uppercase())) {
                (true, _) => Ok(text.to_owned()),
                (_, true) => Err("case-wrong"),
                _ => Err("pattern-broken"),
            }
        }
        Kind::Integer => match number(text, world.comma) {
            Some((digits, 0)) if has_no_point(text, world.comma) => {
                if digits.unsigned_abs() > HIGHEST.unsigned_abs() || digits < 0 {
                    return Err("out-of-range");
                }
                Ok(digits.to_string())
            }
            _ => match number(text, !world.comma) {
                Some((_, 0)) if has_no_point(text, !world.comma) => Err("decimal-mark"),
                _ => Err("integer-bad"),
            },
        },
        Kind::Decimal => match (number(text, world.comma), number(text, !world.comma)) {
            (Some((_, after)), _) if after > 2 => Err("digits-too-many"),
            (Some((digits, after)), _) => Ok(written(digits, after)),
            (None, Some(_)) => Err("decimal-mark"),
            _ => Err("decimal-bad"),
        },
        Kind::Boolean => match text.to_lowercase().as_str() {
            "true" | "yes" | "y" | "1" => Ok("true".to_owned()),
            "false" | "no" | "n" | "0" => Ok("false".to_owned()),
            _ => Err("boolean-bad"),
        },
        Kind::Date => date(world, text),
        Kind::Time => time(text),
        Kind::Picklist => listed(text),
        Kind::Reference if SITES.contains(&text) => Ok(text.to_owned()),
        Kind::Reference => Err("reference-unknown"),
        Kind::Email => {
            let parts: Vec<&str> = text.split('@').collect();
            let is_name = |name: &str| {
                !name.is_empty()
                    && name.chars().all(|c| c.is_ascii_alphanumeric() || c == '.')
                    && !name.ends_with('.')
            };
            let fits = parts.len() == 2
                && is_name(parts[0])
                && is_name(parts[1])
                && parts[1].contains('.')
                && !parts.iter().any(|part| part.starts_with('.') || part.contains(".."));
            fits.then(|| text.to_owned()).ok_or("email-bad")
        }
        Kind::Uuid => {
            let groups: Vec<usize> = text.split('-').map(str::len).collect();
            let fits = groups == [8, 4, 4, 4, 12] && text.chars().all(|c| c == '-' || c.is_ascii_hexdigit());
            fits.then(|| text.to_lowercase()).ok_or("uuid-bad")
        }
    }
}

fn has_no_point(text: &str, comma: bool) -> bool {
    !text.contains(if comma { ',' } else { '.' })
}

/// The digits of a number, and how many of them stand behind the mark; zeros at its end carry nothing.
fn number(text: &str, comma: bool) -> Option<(i128, usize)> {
    let (mark, group_mark) = if comma { (',', '.') } else { ('.', ',') };
    let (negative, bare) = match text {
        _ if text.starts_with('(') && text.ends_with(')') => (true, &text[1..text.len() - 1]),
        _ if text.starts_with('-') => (true, &text[1..]),
        _ if text.ends_with('-') => (true, &text[..text.len() - 1]),
        _ => (false, text.strip_prefix('+').unwrap_or(text)),
    };
    let (whole, part) = bare.split_once(mark).unwrap_or((bare, ""));
    let groups: Vec<&str> = whole.split(group_mark).collect();
    if groups.len() > 1 {
        let (first, rest) = groups.split_first().unwrap();
        let (last, between) = rest.split_last().unwrap();
        // Commas also part hundreds of thousands; no group of thousands begins with a nought.
        let is_size = |group: &&str| group.len() == 3 || group.len() == 2 && group_mark == ',';
        let fits = last.len() == 3 && between.iter().all(is_size) && (1..=3).contains(&first.len());
        if !fits || first.starts_with('0') {
            return None;
        }
    }
    let part = part.trim_end_matches('0');
    let digits = format!("{}{part}", groups.concat());
    let has_digit = bare.chars().any(|c| c.is_ascii_digit());
    if !has_digit || !digits.chars().all(|c| c.is_ascii_digit()) {
        return None;
    }
    let digits: i128 = if digits.is_empty() { 0 } else { digits.parse().ok()? };
    Some((if negative { -digits } else { digits }, part.len()))
}

fn written(digits: i128, after: usize) -> String {
    let sign = if digits < 0 { "-" } else { "" };
    let text = format!("{:0>width$}", digits.unsigned_abs(), width = after + 1);
    let (whole, part) = text.split_at(text.len() - after);
    if part.is_empty() { format!("{sign}{whole}") } else { format!("{sign}{whole}.{part}") }
}

fn date(world: &World, text: &str) -> Result<String, &'static str> {
    let is_number = |part: &&str| !part.is_empty() && part.chars().all(|c| c.is_ascii_digit());
    let split = |mark: char| -> Option<Vec<(usize, u32)>> {
        let parts: Vec<&str> = text.split(mark).collect();
        let fits = parts.len() == 3 && parts.iter().all(is_number);
        fits.then(|| parts.iter().map(|part| (part.len(), part.parse().unwrap())).collect())
    };
    let (day, month, year) = match (split('/').as_deref(), split('-').as_deref()) {
        (Some([(1 | 2, day), (1 | 2, month), (4, year)]), _) => (*day, *month, *year),
        (_, Some([(4, year), (2, month), (2, day)])) if world.dates_of_plan => (*day, *month, *year),
        _ => return Err("date-bad"),
    };
    let is_leap = year % 4 == 0 && (year % 100 != 0 || year % 400 == 0);
    let most = match month {
        4 | 6 | 9 | 11 => 30,
        2 if is_leap => 29,
        2 => 28,
        0..=12 => 31,
        _ => return Err("date-bad"),
    };
    if day == 0 || day > most {
        return Err("date-impossible");
    }
    Ok(match world.dates_of_plan {
        true => format!("{year:04}-{month:02}-{day:02}"),
        false => format!("{day:02}/{month:02}/{year:04}"),
    })
}

fn time(text: &str) -> Result<String, &'static str> {
    let parts: Vec<&str> = text.split(':').collect();
    let fits = |part: &str, most: u32, lengths: &[usize]| {
        lengths.contains(&part.len()) && part.parse().is_ok_and(|number: u32| number <= most)
    };
    let sound = match parts.as_slice() {
        [hour, minute] => fits(hour, 23, &[1, 2]) && fits(minute, 59, &[2]),
        [hour, minute, second] => fits(hour, 23, &[1, 2]) && fits(minute, 59, &[2]) && fits(second, 59, &[2]),
        _ => false,
    };
    if !sound {
        return Err("time-bad");
    }
    Ok(format!("{:0>2}:{}:{}", parts[0], parts[1], parts.get(2).unwrap_or(&"00")))
}

/// `E`, Excellent or top; `D`, Dead; `G`, Good, which may no longer be used.
fn listed(text: &str) -> Result<String, &'static str> {
    let words = text.split_whitespace().collect::<Vec<_>>().join(" ").to_lowercase();
    match words.as_str() {
        "e" | "excellent" | "top" => Ok("E".to_owned()),
        "d" | "dead" => Ok("D".to_owned()),
        "n" | "not assessed" => Ok("N".to_owned()),
        "g" | "good" => Err("off-list-retired"),
        _ => Err("off-list"),
    }
}
