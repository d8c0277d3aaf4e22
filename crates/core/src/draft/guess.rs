//! From what a column holds to what a field asks, each guess with its evidence.

use super::model::{Draft, DraftField, DraftRequired};
use super::names;
use super::sample::{Column, Sampled, Seen};
use super::together::Rows;
use crate::likeness::unaccented;
use crate::numerals::grouped;
use crate::profile::{Class, Likely, Mark, form, plainly, twins_of};
use crate::schema::raw::KindName;
use crate::value::Date;
use std::collections::HashMap;

/// With fewer rows nothing is said of what must be filled.
const ENOUGH: u64 = 10;
/// With fewer rows no limit is drafted: of digits, ranges, lengths and closed lists.
const LIMITED: u64 = 100;
/// At most so many in a hundred rows may spoil a key.
const SPOILT: u64 = 2;

impl Sampled {
    /// The draft of the record whose rows these are.
    #[must_use]
    pub fn draft(&self, headings: &[String], record: &str, source: &str, today: Date) -> Draft {
        let mut draft = Draft { record: names::plain(record), ..Draft::default() };
        draft.remarks.push(format!("Drafted from {source}: {} rows.", grouped(self.rows)));
        let mut keys: Vec<Candidate> = Vec::new();
        for (number, (heading, column)) in headings.iter().zip(&self.columns).enumerate() {
            let heading: String = heading.trim().chars().filter(|c| !c.is_control()).collect();
            if heading.is_empty() {
                if column.filled > 0 {
                    let message =
                        format!("a column without a heading that holds {} values", grouped(column.filled));
                    draft.not_understood.push(message);
                }
                continue;
            }
            let repeats = column.repeats();
            let field =
                self.field(&heading, column, repeats.as_ref().is_none_or(|one| one.1 > 0), &mut draft, today);
            let is_key_like = !matches!(
                field.kind,
                KindName::Decimal | KindName::Boolean | KindName::Email | KindName::Phone
            );
            if is_key_like && column.filled > 0 && column.lengths.is_some_and(|lengths| lengths.1 <= 60) {
                let (rank, name) = (key_rank(&field, column), field.name.clone());
                keys.push(Candidate { number, rank, name, kind: field.kind, blank: column.blank, repeats });
            }
            draft.fields.push(field);
        }
        self.name_key(keys, &mut draft);
        draft.settle();
        draft
    }

    fn name_key(&self, mut keys: Vec<Candidate>, draft: &mut Draft) {
        keys.sort_by_key(|key| key.rank);
        let is_single =
            |key: &&Candidate| matches!(key.kind, KindName::Text | KindName::Integer | KindName::Uuid);
        let spoilers = |key: &Candidate| {
            key.repeats.as_ref().map(|repeats| key.blank + u64::try_from(repeats.1).unwrap_or(u64::MAX))
        };
        let mut found = keys.iter().filter(is_single).filter(|key| spoilers(key) == Some(0));
        if let Some(key) = found.next().filter(|_| self.rows > 1) {
            draft.key = vec![key.name.clone()];
            draft.key_remarks.push(format!("filled and different in each of {} rows", grouped(self.rows)));
            let others: Vec<&str> = found.map(|other| other.name.as_str()).collect();
            if !others.is_empty() {
                draft.key_remarks.push(format!("so are: {}", others.join(", ")));
            }
            return;
        }
        if self.rows < 2 {
            return;
        }
        // A column called a key that a few rows spoil: those rows are wrong, not the key.
        let is_nearly = |key: &&Candidate| {
            let spoilt = spoilers(key);
            self.rows >= ENOUGH && spoilt.is_some_and(|count| count * 100 <= (self.rows * SPOILT).max(100))
        };
        let nearly: Vec<&Candidate> = keys.iter().filter(is_single).filter(is_nearly).collect();
        let rows = Rows::of(&self.columns);
        let order: Vec<usize> = keys.iter().map(|key| key.number).collect();
        let name =
            |number: &usize| keys.iter().find(|key| key.number == *number).map(|key| key.name.as_str());
        let names = |numbers: &[usize]| numbers.iter().filter_map(name).collect::<Vec<_>>();
        let owned =
            |numbers: &[usize]| names(numbers).into_iter().map(ToOwned::to_owned).collect::<Vec<String>>();
        if let Some(runs) = rows.runs(&order) {
            let (header, key) = (owned(&runs.header), owned(&runs.key));
            let of = format!("{} runs of {} rows", grouped(runs.runs as u64), grouped(runs.rows as u64));
            if runs.has_blanks {
                draft.key = header.iter().take(1).cloned().collect();
                let says = format!("LOOK: below the first row of a record its own cells are blank, in {of}");
                draft.key_remarks.push(says);
                draft.lines = Some((header, key));
                return;
            }
            draft.key_remarks.push(format!(
                "LOOK: {} stay the same in {of}: where one record has several lines, take its key from them and add \
                 [lines] with header = {} and key = {}",
                header.join(", "),
                super::write::list(&header),
                super::write::list(&key),
            ));
            draft.key = header.into_iter().take(1).chain(key).collect();
            return;
        }
        if let Some(key) = nearly.first().filter(|key| key.is_named()) {
            draft.key = vec![key.name.clone()];
            draft.key_remarks.push(format!("LOOK: likely the key, but {}", key.spoilt_by()));
            return;
        }
        let none = "no column is filled and different in every row: name the key, perhaps of several fields";
        let is_named = |number: &usize| keys.iter().any(|key| key.number == *number && key.is_named());
        if let Some(several) = rows.key_of_several(&order) {
            let seen = if (rows.len() as u64) < self.rows { "the first " } else { "all " };
            let together = names(&several).join(" and ");
            let count = grouped(rows.len() as u64);
            if several.iter().any(is_named) {
                draft.key = owned(&several);
                draft.key_remarks.push(format!(
                    "LOOK: no column alone, but {together} together differ in {seen}{count} rows: make sure that they always do"
                ));
            } else {
                // What nobody calls a key may differ by chance.
                draft.key_remarks.push(format!("{none}; {together} together differ in {seen}{count} rows"));
            }
        } else {
            draft.key_remarks.push(none.to_owned());
        }
        for key in nearly {
            draft.key_remarks.push(format!("LOOK: {} is nearly one, but {}", key.name, key.spoilt_by()));
        }
    }

    fn field(
        &self,
        heading: &str,
        column: &Column,
        comes_again: bool,
        draft: &mut Draft,
        today: Date,
    ) -> DraftField {
        let mut field = DraftField::new(names::of_heading(heading), KindName::Text);
        field.label = Some(heading.to_owned());
        let filled = match (column.filled, column.blank) {
            (0, _) => "empty throughout".to_owned(),
            (_, 0) => "filled in every row".to_owned(),
            (filled, _) => format!("{} of {} filled", grouped(filled), grouped(self.rows)),
        };
        let distinct = match column.values().map(|values| values.len() as u64) {
            _ if column.filled == 0 => String::new(),
            _ if !comes_again && column.filled > 1 => ", all different".to_owned(),
            Some(1) => ", 1 value".to_owned(),
            Some(count) => format!(", {} values", grouped(count)),
            None => format!(", more than {} values", super::sample::MOST_VALUES),
        };
        field.remarks.push(format!("{filled}{distinct}"));
        if column.filled == 0 {
            return field;
        }
        if column.blank == 0 && column.filled >= ENOUGH {
            field.required = DraftRequired::Always;
        }
        let guess = Guess::of(column);
        field.kind = guess.kind;
        if guess.kind == KindName::Text
            && let Some((kind, count)) = guess.mostly
        {
            let first = guess
                .misfit
                .as_ref()
                .map(|(row, text)| format!(", first \"{}\" in row {row}", shortened(text)));
            field.remarks.push(format!(
                "LOOK: taken for text, but {} of {} cells are of kind {kind}; the others are not{}",
                grouped(count),
                grouped(column.filled),
                first.unwrap_or_default()
            ));
        } else if guess.kind != KindName::Text
            && let Some((row, text)) = &guess.misfit
        {
            let count = column.filled - guess.fitting;
            field.remarks.push(format!(
                "LOOK: {} of {} cells are no {}, first \"{}\" in row {row}",
                grouped(count),
                grouped(column.filled),
                guess.kind.name(),
                shortened(text)
            ));
        }
        let is_evident = column.filled >= LIMITED && comes_again;
        if let Some(form) = guess.form {
            field.remarks.push(form.to_owned());
        }
        match guess.kind {
            KindName::Integer | KindName::Decimal => numbers(&mut field, &guess, is_evident),
            KindName::Date | KindName::Datetime => dates(&mut field, column, &guess, is_evident, today),
            KindName::Text => texts(&mut field, column, guess.form.is_some(), is_evident, draft),
            KindName::Boolean => booleans(&mut field, column),
            _ => {}
        }
        if field.kind != KindName::Picklist && field.kind != KindName::Boolean {
            // What comes again shows the form, and no one record.
            let values = column.values().unwrap_or_default();
            let again = values.iter().find(|value| value.1 > 1 && value.0.chars().count() <= 60);
            field.example = again.map(|value| value.0.to_owned());
        }
        field
    }
}

/// A column that may tell rows apart.
struct Candidate {
    number: usize,
    rank: usize,
    name: String,
    kind: KindName,
    blank: u64,
    /// The first rows that hold what a row above holds, and how many; nothing where many do.
    repeats: Option<(Vec<u32>, usize)>,
}

impl Candidate {
    /// Whether its name or its form says that it is a key.
    fn is_named(&self) -> bool {
        self.rank < 2
    }

    /// What spoils it.
    fn spoilt_by(&self) -> String {
        let mut parts = Vec::new();
        if let Some((rows, count)) = self.repeats.as_ref().filter(|repeats| repeats.1 > 0) {
            let rows: Vec<String> = rows.iter().map(|row| grouped(u64::from(*row))).collect();
            let more = if *count > rows.len() { " and others" } else { "" };
            let (noun, verb) = if *count == 1 { ("row", "repeats") } else { ("rows", "repeat") };
            parts.push(format!("{noun} {}{more} {verb} what stands above", rows.join(", ")));
        }
        if self.blank > 0 {
            let noun = if self.blank == 1 { "row leaves" } else { "rows leave" };
            parts.push(format!("{} {noun} it blank", grouped(self.blank)));
        }
        parts.join(", and ")
    }
}

/// The likely kind of a column.
struct Guess {
    kind: KindName,
    /// How its numbers are written.
    form: Option<&'static str>,
    /// The kind that many cells have, but not enough.
    mostly: Option<(&'static str, u64)>,
    fitting: u64,
    misfit: Option<(u64, String)>,
    /// The extremes, with their classes.
    lowest: Option<(Class, String)>,
    highest: Option<(Class, String)>,
    digits: (u32, u32),
    has_comma: bool,
    /// How many cells alone have decimals, and the first of them: few may be slips.
    decimals: Option<(u64, (u64, String))>,
}

impl Guess {
    fn of(column: &Column) -> Self {
        let classes = column.classes();
        let counts: Vec<(Class, u64)> = classes.iter().map(|class| (class.0, class.1.count)).collect();
        let of_one_length = column.lengths.is_some_and(|lengths| lengths.0 == lengths.1);
        let mut guess = Self {
            kind: KindName::Text,
            form: None,
            mostly: None,
            fitting: column.filled,
            misfit: None,
            lowest: None,
            highest: None,
            digits: (0, 0),
            has_comma: false,
            decimals: None,
        };
        let Some(likely) = Likely::among(&counts, of_one_length) else { return guess };
        guess.form = likely.form.filter(|_| likely.is_likely);
        let named = |kind: &&KindName| kind.name() == likely.kind;
        let kind = KindName::ALL.iter().find(named).copied().unwrap_or(KindName::Text);
        let (fitting, rest): (Vec<(Class, &Seen)>, Vec<_>) =
            classes.iter().partition(|class| likely.classes.contains(&class.0));
        guess.misfit = rest.iter().map(|(_, seen)| seen.first.clone()).min_by_key(|first| first.0);
        if !likely.is_likely || kind == KindName::Text {
            let is_said = !likely.is_likely && likely.fitting * 2 >= column.filled && likely.fitting > 1;
            guess.mostly = is_said.then_some((likely.kind, likely.fitting));
            return guess;
        }
        (guess.kind, guess.fitting) = (kind, likely.fitting);
        guess.has_comma = likely.form.is_some_and(|form| form.contains("comma"));
        let plain = |class: Class, text: &str| plainly(class, text).into_owned();
        let is_less = |one: &str, other: &str| match (bound_number(one), bound_number(other)) {
            (Some(one), Some(other)) => one < other,
            _ => one < other,
        };
        let is_number = kind.is_number();
        for (class, seen) in fitting {
            // In a column with a decimal comma, so is the one comma of `1,234`.
            let class = match class {
                Class::Thousands(Mark::Unsure, _) if guess.has_comma => Class::CommaDecimal,
                class => class,
            };
            let (low, high) = match is_number {
                true => (plain(class, &seen.lowest), plain(class, &seen.highest)),
                false => (seen.lowest.clone(), seen.highest.clone()),
            };
            if guess.lowest.as_ref().is_none_or(|lowest| is_less(&low, &lowest.1)) {
                guess.lowest = Some((class, low));
            }
            if guess.highest.as_ref().is_none_or(|highest| is_less(&highest.1, &high)) {
                guess.highest = Some((class, high));
            }
            guess.digits = (guess.digits.0.max(seen.digits.0), guess.digits.1.max(seen.digits.1));
            if matches!(class, Class::Decimal | Class::CommaDecimal) {
                let (count, first) = guess.decimals.get_or_insert((0, seen.first.clone()));
                *count += seen.count;
                if seen.first.0 < first.0 {
                    first.clone_from(&seen.first);
                }
            }
        }
        guess
    }
}

fn bound_number(text: &str) -> Option<f64> {
    text.replace('\u{2212}', "-").parse().ok()
}

fn numbers(field: &mut DraftField, guess: &Guess, is_evident: bool) {
    let (Some((_, low)), Some((_, high))) = (&guess.lowest, &guess.highest) else { return };
    field
        .remarks
        .push(format!("from {low} to {high}{}", limits_said(is_evident, "the range is rounded outwards")));
    if guess.has_comma {
        field
            .remarks
            .push("written with a decimal comma: a plan says so with decimal_mark = \",\"".to_owned());
    }
    if let Some((count, (row, text))) = &guess.decimals
        && field.kind == KindName::Decimal
        && count * 5 < guess.fitting
    {
        field.remarks.push(format!(
            "LOOK: only {} of {} have decimals, first \"{}\" in row {row}",
            grouped(*count),
            grouped(guess.fitting),
            shortened(text)
        ));
    }
    if !is_evident {
        return;
    }
    if field.kind == KindName::Decimal {
        field.digits = (None, Some(guess.digits.1));
    }
    let (low, high) = (bound_number(low), bound_number(high));
    field.range = (low.map(|low| rounded(low, false)), high.map(|high| rounded(high, true)));
}

/// What is said behind the extremes of a column.
fn limits_said(is_evident: bool, how: &str) -> String {
    if is_evident { format!(": {how}") } else { ": too little to go by for a limit".to_owned() }
}

/// The nearest round number above or below: 1, 2 or 5 with zeros; nought for small numbers that are not below it.
fn rounded(number: f64, up: bool) -> String {
    let outward_up = up == (number >= 0.0);
    let size = number.abs();
    if size == 0.0 || !outward_up && size < 10.0 {
        return "0".to_owned();
    }
    let power = 10_f64.powf(size.log10().floor());
    let steps = [1.0, 2.0, 5.0, 10.0].map(|step| step * power);
    let found = if outward_up {
        steps.into_iter().find(|step| *step >= size)
    } else {
        steps.into_iter().rev().find(|step| *step <= size)
    };
    let found = found.unwrap_or(size).round();
    // What is below one is rounded to one, or to nought.
    let found = if found == 0.0 && outward_up { 1.0 } else { found };
    format!("{}{found:.0}", if number < 0.0 && found != 0.0 { "-" } else { "" })
}

fn dates(field: &mut DraftField, column: &Column, guess: &Guess, is_evident: bool, today: Date) {
    let (Some((_, low)), Some((_, high))) = (&guess.lowest, &guess.highest) else { return };
    let best = (0_u8..).zip(column.forms).max_by_key(|(number, count)| (*count, u8::MAX - number));
    let Some((best, count)) = best else { return };
    let all: u64 = column
        .classes()
        .iter()
        .filter(|class| matches!(class.0, Class::Date(_) | Class::Datetime(_)))
        .map(|class| class.1.count)
        .sum();
    let pattern = form(best);
    field.remarks.push(format!(
        "from {low} to {high}{}",
        if is_evident { "" } else { ": too little to go by for a limit" }
    ));
    if field.kind == KindName::Datetime {
        return;
    }
    if pattern != "yyyy-MM-dd" {
        field.dates = vec![pattern.to_owned()];
        let share = if count == all {
            "all of them".to_owned()
        } else {
            format!("{} of {}", grouped(count), grouped(all))
        };
        field.remarks.push(format!("{share} read as {pattern}"));
    }
    let others: Vec<&str> = twins_of(best)
        .into_iter()
        .filter(|twin| column.forms.get(usize::from(*twin)).is_some_and(|other| *other == count))
        .map(form)
        .collect();
    if !others.is_empty() {
        field.remarks.push(format!("LOOK: they read as {} just as well", others.join(" or ")));
    }
    if count < all {
        for (number, other) in
            (0_u8..).zip(column.forms).filter(|(number, other)| *number != best && *other > 0)
        {
            if !twins_of(best).contains(&number) && field.dates.len() < 4 {
                field.dates.push(form(number).to_owned());
                field.remarks.push(format!("{} read as {}", grouped(other), form(number)));
            }
        }
        if !field.dates.is_empty() && !field.dates.iter().any(|one| one == pattern) {
            field.dates.insert(0, pattern.to_owned());
        }
    }
    let read = |text: &str| {
        let day = text.split(['T', ' ']).next().unwrap_or(text);
        let pattern = crate::value::DatePattern::new(pattern).ok()?;
        match pattern.read(day, today) {
            crate::value::DateReading::Day { date, .. } => Some(date),
            _ => None,
        }
    };
    if let (true, Some(low), Some(high)) = (is_evident, read(low), read(high)) {
        field.range.0 = Some(format!("{:04}-01-01", low.year() / 10 * 10));
        if high <= today {
            field.range.1 = Some("today".to_owned());
        }
    }
}

fn booleans(field: &mut DraftField, column: &Column) {
    let values = column.values().unwrap_or_default();
    let words: Vec<String> =
        values.iter().map(|(word, count)| format!("{} ({})", shortened(word), grouped(*count))).collect();
    field.remarks.push(words.join(", "));
}

/// Text: a picklist where few values come again and again, else its form and its length.
fn texts(field: &mut DraftField, column: &Column, is_coded: bool, is_evident: bool, draft: &mut Draft) {
    if let Some((mark, parts)) = parted(column) {
        field.remarks.push(format!("several values with \"{mark}\" between, {} of them", parts.len()));
        let parts: Vec<(&str, u64)> = parts.iter().map(|part| (part.as_str(), 2)).collect();
        listed(field, &parts, is_evident, draft);
        field.many = Some((mark.to_string(), None));
        return;
    }
    let is_short = column.lengths.is_some_and(|lengths| lengths.1 <= 40);
    if let Some(values) = column.values()
        && is_short
        && !is_coded
    {
        let spellings = Spelling::of(&values);
        let once = spellings.iter().filter(|spelling| spelling.count == 1).count() as u64;
        let wordy = values.iter().filter(|value| value.0.split_whitespace().count() > 4).count();
        let is_list = spellings.len() > 1
            && spellings.len() <= 50
            && spellings.len() as u64 * 5 <= column.filled
            // What people write freely comes once, or in sentences.
            && once * 10 <= column.filled
            && wordy * 5 <= values.len();
        if is_list {
            return listed(field, &values, is_evident, draft);
        }
    }
    if let Some(pattern) = column.places().filter(|_| column.filled >= ENOUGH).and_then(pattern) {
        let says = format!("each of {} values has this form", grouped(column.filled));
        field.remarks.push(says);
        field.pattern = Some(pattern);
        return;
    }
    if let Some((least, most)) = column.lengths {
        let steps = [1, 2, 5, 10, 20, 50, 100, 200, 255, 500, 1_000, 2_000, 4_000, 10_000, 32_000];
        let max = steps.into_iter().find(|step| *step >= most).filter(|_| is_evident);
        field.remarks.push(format!(
            "{} to {} characters{}",
            grouped(least),
            grouped(most),
            if is_evident { "" } else { ": too little to go by for a limit" }
        ));
        field.length.1 = max.and_then(|max| u32::try_from(max).ok());
    }
}

/// A value with the other spellings of it: in another case, with other spaces or accents.
struct Spelling<'a> {
    value: &'a str,
    count: u64,
    others: Vec<&'a str>,
}

impl<'a> Spelling<'a> {
    /// The most frequent spelling of each value comes first.
    fn of(values: &[(&'a str, u64)]) -> Vec<Self> {
        let mut order: Vec<String> = Vec::new();
        let mut found: HashMap<String, Self> = HashMap::new();
        for (value, count) in values {
            let bare: String = unaccented(value).filter(|c| !c.is_whitespace()).collect();
            let folded = bare.to_lowercase();
            if let Some(known) = found.get_mut(&folded) {
                known.count += count;
                known.others.push(value);
            } else {
                order.push(folded.clone());
                found.insert(folded, Self { value, count: *count, others: Vec::new() });
            }
        }
        order.iter().filter_map(|folded| found.remove(folded)).collect()
    }
}

/// A picklist of these values, the most frequent first; closed only where there is enough to go by.
fn listed(field: &mut DraftField, values: &[(&str, u64)], is_evident: bool, draft: &mut Draft) {
    let mut spellings = Spelling::of(values);
    let rare: Vec<String> = spellings
        .iter()
        .filter(|spelling| spelling.count == 1)
        .map(|spelling| format!("\"{}\"", shortened(spelling.value)))
        .collect();
    if !rare.is_empty() && rare.len() <= 8 {
        field.remarks.push(format!("LOOK: only once each: {}", rare.join(", ")));
    }
    spellings.sort_by_key(|spelling| spelling.value);
    for spelling in spellings.iter().filter(|spelling| !spelling.others.is_empty()) {
        let others: Vec<String> =
            spelling.others.iter().map(|other| format!("\"{}\"", shortened(other))).collect();
        let says = format!("LOOK: {} taken for \"{}\"", others.join(", "), shortened(spelling.value));
        field.remarks.push(says);
    }
    let codes = spellings.iter().map(|spelling| (spelling.value.to_owned(), None)).collect();
    let name = draft.list(&field.name.clone(), codes);
    if let Some(list) = draft.picklists.iter_mut().find(|list| list.name == name) {
        let also = spellings.iter().flat_map(|spelling| {
            spelling.others.iter().map(|other| (spelling.value.to_owned(), (*other).to_owned()))
        });
        let new: Vec<(String, String)> = also.filter(|pair| !list.also.contains(pair)).collect();
        list.also.extend(new);
        if !is_evident && list.remarks.is_empty() {
            list.open = true;
            list.remarks.push("LOOK: left open, since too few rows were seen: is the list whole?".to_owned());
        }
    }
    field.kind = KindName::Picklist;
    field.picklist = Some(name);
}

/// The mark between the values of cells that hold several, and the different parts.
fn parted(column: &Column) -> Option<(char, Vec<String>)> {
    let values = column.values()?;
    let cells_with = |mark: char| -> u64 {
        values.iter().filter(|value| value.0.contains(mark)).map(|value| value.1).sum()
    };
    let marks = [';', '|'].map(|mark| (mark, cells_with(mark)));
    let (mark, with_mark) =
        marks.into_iter().filter(|(_, count)| *count > 0).max_by_key(|(_, count)| *count)?;
    let mut parts: Vec<String> = Vec::new();
    for (value, _) in &values {
        for part in value.split(mark).map(str::trim).filter(|part| !part.is_empty()) {
            if !parts.iter().any(|known| known == part) {
                parts.push(part.to_owned());
            }
        }
    }
    parts.sort();
    let is_list = with_mark * 10 >= column.filled
        && parts.len() <= 40
        && parts.len() < values.len().max(2)
        && parts.iter().all(|part| part.chars().count() <= 40);
    is_list.then_some((mark, parts))
}

/// The pattern of values of one length: what never changes, digits, letters; only where digits are among them.
fn pattern(places: &[(u8, u8)]) -> Option<String> {
    let class = |&(low, high): &(u8, u8)| {
        if low == high && !low.is_ascii_digit() {
            let c = char::from(low);
            return Some(if r"\.+*?()|[]{}^$".contains(c) { format!("\\{c}") } else { c.to_string() });
        }
        let within = |from: u8, to: u8| low >= from && high <= to;
        if within(b'0', b'9') {
            Some("[0-9]".to_owned())
        } else if within(b'A', b'Z') {
            Some("[A-Z]".to_owned())
        } else if within(b'a', b'z') {
            Some("[a-z]".to_owned())
        } else {
            None
        }
    };
    let parts: Vec<String> = places.iter().map(class).collect::<Option<_>>()?;
    if !parts.iter().any(|part| part == "[0-9]") {
        return None;
    }
    let mut pattern = String::new();
    for run in parts.chunk_by(|one, other| one == other && one.starts_with('[')) {
        let [first, ..] = run else { continue };
        pattern.push_str(first);
        if run.len() > 1 {
            pattern.push_str(&format!("{{{}}}", run.len()));
        }
    }
    Some(pattern)
}

/// Columns that look like identifiers come first; then those on the left.
fn key_rank(field: &DraftField, column: &Column) -> usize {
    let name = field.name.to_lowercase();
    let words = ["id", "key", "code", "no", "number", "tag", "ref", "uuid"];
    let is_named =
        name.split(|c: char| !c.is_alphanumeric()).any(|word| words.contains(&word)) || name.ends_with("id");
    match (is_named, field.pattern.is_some() || field.kind != KindName::Text) {
        (true, true) => 0,
        (true, false) => 1,
        (false, true) if matches!(field.kind, KindName::Date | KindName::Datetime | KindName::Time) => 5,
        (false, true) => 2,
        (false, false) => 3 + usize::from(column.lengths.is_some_and(|lengths| lengths.1 > 40)),
    }
}

fn shortened(text: &str) -> String {
    let short: String = text.chars().take(40).map(|c| if c.is_control() { ' ' } else { c }).collect();
    if text.chars().count() > 40 { format!("{short}…") } else { short }
}

/// A bound that somebody wrote, as a record schema takes it.
pub(super) fn bound(kind: KindName, text: &str) -> Option<String> {
    let text = text.trim();
    match kind {
        KindName::Integer => {
            crate::value::Number::integer(&text.replace([',', ' '], "")).map(|number| number.to_string())
        }
        KindName::Decimal => {
            crate::value::Number::decimal(&text.replace([',', ' '], "")).map(|number| number.to_string())
        }
        KindName::Date => {
            let is_today = text.eq_ignore_ascii_case("today");
            (is_today || Date::iso(text).is_some()).then(|| text.to_lowercase())
        }
        _ => None,
    }
}
