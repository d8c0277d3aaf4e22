//! From a data dictionary: a sheet with one row a field, its own headings recognised by likeness.

mod lists;
mod roles;

pub use lists::Lists;
pub use roles::Role;

use super::model::{Draft, DraftFault, DraftField, DraftRequired};
use super::{names, types};
use crate::headings::loose;
use crate::likeness::likeness;
use crate::schema::raw::KindName;
use lists::Elsewhere;
use roles::WORDS;

/// A table that may be a dictionary: what its columns say.
#[derive(Debug, Clone, Default)]
pub struct Dictionary {
    roles: Vec<Option<Role>>,
    headings: Vec<String>,
}

impl Dictionary {
    /// Reads the headings; each role goes to the column that is most like it.
    #[must_use]
    pub fn new(headings: &[String]) -> Self {
        let mut found: Vec<(f64, usize, Role)> = Vec::new();
        // No dictionary says so much of a field; a table of so many columns is a sample.
        const MOST: usize = 200;
        let asked = if headings.len() > MOST { &[][..] } else { headings };
        // Nor is any of its headings so long.
        const LONGEST: usize = 200;
        for (column, heading) in asked.iter().enumerate().filter(|(_, heading)| heading.len() <= LONGEST) {
            let form = loose(heading);
            let best =
                |words: &[&str]| words.iter().map(|word| likeness(&form, &loose(word))).fold(0.0, f64::max);
            found.extend(
                WORDS
                    .iter()
                    .map(|(role, words)| (best(words), column, *role))
                    .filter(|found| found.0 >= 0.86),
            );
        }
        found.sort_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1)).then(a.2.cmp(&b.2)));
        let mut roles = vec![None; headings.len()];
        let mut taken: Vec<Role> = Vec::new();
        for (_, column, role) in found {
            if let Some(slot) = roles.get_mut(column).filter(|slot| slot.is_none())
                && !taken.contains(&role)
            {
                *slot = Some(role);
                taken.push(role);
            }
        }
        // A label alone names the field.
        if !taken.contains(&Role::Name)
            && let Some(slot) = roles.iter_mut().find(|slot| **slot == Some(Role::Label))
        {
            *slot = Some(Role::Name);
        }
        Self { roles, headings: headings.to_vec() }
    }

    /// Whether a column names fields, and another says something of them.
    #[must_use]
    pub fn names_fields(&self) -> bool {
        self.roles.contains(&Some(Role::Name)) && self.roles.iter().flatten().count() > 1
    }

    /// Whether the table is a dictionary: it names fields and says two things more of them, the kind first of all.
    #[must_use]
    pub fn is_one(&self, rows: &[Vec<String>]) -> bool {
        let has = |role| self.roles.contains(&Some(role));
        if !has(Role::Name) {
            return false;
        }
        let said = self
            .roles
            .iter()
            .flatten()
            .filter(|role| !matches!(role, Role::Name | Role::Label | Role::Table))
            .count();
        let typed = |row: &&Vec<String>| {
            self.cell(row, Role::Kind).is_some_and(|kind| types::read(kind).kind.is_some())
        };
        let with_kind = rows.iter().filter(|row| self.cell(row, Role::Kind).is_some()).count();
        let understood = rows.iter().filter(typed).count();
        has(Role::Kind) && said >= 2 && understood * 2 >= with_kind.max(1) || said >= 4
    }

    fn cell<'a>(&self, row: &'a [String], role: Role) -> Option<&'a str> {
        let column = self.roles.iter().position(|found| *found == Some(role))?;
        row.get(column).map(|cell| cell.trim()).filter(|cell| !cell.is_empty())
    }

    /// The draft of the record that the rows describe; `lists` reads picklists on other sheets.
    ///
    /// # Errors
    /// When no row names a field, or several tables are described and none was named.
    pub fn draft(
        &self,
        rows: &[Vec<String>],
        table: Option<&str>,
        stem: &str,
        lists: &mut Lists<'_>,
    ) -> Result<Draft, DraftFault> {
        let record = names::plain(table.unwrap_or(stem));
        let suffixes = ["_data_dictionary", "_dictionary", "_fields", "_schema"];
        let bare =
            suffixes.iter().find_map(|suffix| record.strip_suffix(suffix)).filter(|bare| !bare.is_empty());
        let mut draft = Draft { record: bare.unwrap_or(&record).to_owned(), ..Draft::default() };
        draft.remarks.push("Drafted from a data dictionary.".to_owned());
        let said: Vec<String> = self
            .headings
            .iter()
            .zip(&self.roles)
            .filter(|(heading, role)| !heading.trim().is_empty() && role.is_none())
            .map(|(heading, _)| format!("the column \"{}\"", heading.trim()))
            .collect();
        draft.not_understood.extend(said);
        let mut tables: Vec<String> = Vec::new();
        let mut of_table = String::new();
        let mut chosen: Vec<&Vec<String>> = Vec::new();
        for row in rows {
            // A name in the first of several rows stands for those below it.
            if let Some(found) = self.cell(row, Role::Table) {
                of_table = found.to_owned();
                if !tables.contains(&of_table) {
                    tables.push(of_table.clone());
                }
            }
            if table.is_none_or(|wanted| of_table.is_empty() || of_table.eq_ignore_ascii_case(wanted)) {
                chosen.push(row);
            }
        }
        match table {
            None if tables.len() > 1 => return Err(DraftFault::Several(tables)),
            Some(wanted)
                if !tables.is_empty() && !tables.iter().any(|name| name.eq_ignore_ascii_case(wanted)) =>
            {
                return Err(DraftFault::NoTable(wanted.to_owned()));
            }
            None => tables.iter().for_each(|name| draft.record = names::plain(name)),
            Some(_) => {}
        }
        for row in chosen {
            self.row(row, &mut draft, lists);
        }
        if draft.fields.is_empty() {
            return Err(DraftFault::Nothing("no row of it names a field".to_owned()));
        }
        draft.settle();
        Ok(draft)
    }

    fn row(&self, row: &[String], draft: &mut Draft, lists: &mut Lists<'_>) {
        let Some(named) = self.cell(row, Role::Name) else {
            if row.iter().any(|cell| !cell.trim().is_empty()) {
                let text: Vec<&str> =
                    row.iter().map(|cell| cell.trim()).filter(|cell| !cell.is_empty()).collect();
                draft.not_understood.push(format!("a row without a name: {}", text.join(" | ")));
            }
            return;
        };
        let name: String = named.chars().filter(|c| !c.is_control()).collect();
        let mut field = DraftField::new(name, KindName::Text);
        field.label = self.cell(row, Role::Label).map(ToOwned::to_owned);
        let kind = self.cell(row, Role::Kind);
        let typed = kind.map(types::read).unwrap_or_default();
        match (typed.kind, kind) {
            (Some(kind), _) => field.kind = kind,
            (None, Some(kind)) => {
                field.remarks.push(format!("the type \"{kind}\" was not understood: taken for text"));
                draft.not_understood.push(format!("{named}: the type \"{kind}\""));
            }
            (None, None) => field.remarks.push("no type is given: taken for text".to_owned()),
        }
        typed.apply(&mut field);
        self.length(row, &mut field, draft);
        self.needed(row, &mut field, draft);
        self.range(row, &mut field, draft);
        field.pattern = self
            .cell(row, Role::Pattern)
            .map(|pattern| pattern.trim_start_matches('^').trim_end_matches('$').to_owned());
        self.values(row, &mut field, typed.many, draft, lists);
        let to = self
            .cell(row, Role::References)
            .map(ToOwned::to_owned)
            .or(typed.inner.filter(|_| field.kind == KindName::Reference));
        if let Some(to) = to.filter(|to| !is_no(to)) {
            // `site.code`, `site(code)`: the record comes first.
            let record = to.split(['.', '(', ' ']).find(|part| !part.is_empty()).unwrap_or(&to).to_owned();
            field.kind = KindName::Reference;
            field.to = Some(names::plain(&record));
            (field.length, field.pattern, field.picklist) = ((None, None), None, None);
        }
        // `0`, `No` and `none` are defaults as good as any; a dash says that there is none.
        let is_dash = |default: &&str| ["-", "–", "—", "n/a"].contains(&default.to_lowercase().as_str());
        field.default =
            self.cell(row, Role::Default).filter(|default| !is_dash(default)).map(ToOwned::to_owned);
        self.changes(row, &mut field, draft);
        field.help = self.cell(row, Role::Help).map(ToOwned::to_owned);
        field.example = self.cell(row, Role::Example).map(ToOwned::to_owned);
        let also = self.cell(row, Role::Also).unwrap_or_default();
        field.also = also
            .split([';', '\n'])
            .map(|word| word.trim().to_owned())
            .filter(|word| !word.is_empty())
            .collect();
        if let Some(form) = self.cell(row, Role::DateForm) {
            self.date_form(form, &mut field, draft);
        }
        draft.fields.push(field);
    }

    fn length(&self, row: &[String], field: &mut DraftField, draft: &mut Draft) {
        let Some(text) = self.cell(row, Role::Length) else { return };
        let numbers: Vec<u32> =
            text.split(|c: char| !c.is_ascii_digit()).filter_map(|part| part.parse().ok()).collect();
        let is_least = text.to_lowercase().contains("least") || text.to_lowercase().contains("min");
        match (numbers.as_slice(), field.kind) {
            ([all, after], KindName::Decimal) if text.contains([',', '.']) => {
                field.digits = (Some(all.saturating_sub(*after)), Some(*after));
            }
            (
                _,
                KindName::Decimal
                | KindName::Integer
                | KindName::Date
                | KindName::Datetime
                | KindName::Boolean,
            ) => {}
            ([min], _) if is_least => field.length = (Some(*min), None),
            ([max], _) => field.length.1 = Some(*max),
            ([min, max], _) if min <= max => field.length = (Some(*min), Some(*max)),
            _ => draft.not_understood.push(format!("{}: the length \"{text}\"", field.name)),
        }
        if !matches!(field.kind, KindName::Text | KindName::Email | KindName::Url | KindName::Uuid) {
            field.length = (None, None);
        }
    }

    fn needed(&self, row: &[String], field: &mut DraftField, draft: &mut Draft) {
        if let Some(text) = self.cell(row, Role::Required) {
            let word = loose(text);
            field.required = match word.as_str() {
                "add" | "onadd" | "oncreate" | "whenadding" | "insert" => DraftRequired::WhenAdding,
                "advised" | "recommended" | "desirable" | "preferred" | "should" => DraftRequired::Advised,
                _ if is_yes(text)
                    || ["required", "mandatory", "m", "r", "must", "notnull"].contains(&word.as_str()) =>
                {
                    DraftRequired::Always
                }
                _ if is_no(text) || ["optional", "o", "may"].contains(&word.as_str()) => DraftRequired::No,
                _ => {
                    draft.not_understood.push(format!("{}: required \"{text}\"", field.name));
                    DraftRequired::No
                }
            };
        } else if let Some(text) = self.cell(row, Role::Optional) {
            if is_no(text) || loose(text) == "notnull" {
                field.required = DraftRequired::Always;
            } else if !is_yes(text) && loose(text) != "null" {
                draft.not_understood.push(format!("{}: nullable \"{text}\"", field.name));
            }
        }
        if let Some(text) = self.cell(row, Role::Key) {
            let word = loose(text);
            if is_yes(text) || ["pk", "primary", "primarykey", "key"].contains(&word.as_str()) {
                draft.key.push(field.name.clone());
            } else if ["unique", "uk", "u"].contains(&word.as_str()) {
                draft.unique.push(vec![field.name.clone()]);
            } else if !is_no(text) && !["fk", "foreign", "foreignkey"].contains(&word.as_str()) {
                draft.not_understood.push(format!("{}: key \"{text}\"", field.name));
            }
        }
        if self.cell(row, Role::Unique).is_some_and(is_yes) {
            draft.unique.push(vec![field.name.clone()]);
        }
    }

    /// When a field may be changed: never at all, or not by a file.
    fn changes(&self, row: &[String], field: &mut DraftField, draft: &Draft) {
        if self.cell(row, Role::ReadOnly).is_some_and(is_yes) {
            field.read_only = true;
        }
        let Some(text) = self.cell(row, Role::Changeable) else { return };
        let words = text.to_lowercase();
        let says = |any: &[&str]| any.iter().any(|word| words.contains(word));
        if is_yes(text) || says(&["always", "any time", "anytime", "both"]) {
            return;
        }
        let is_once = says(&["creat", "insert", "add", "once", "first", "new"]);
        let is_never = is_no(text) || says(&["never", "system", "comput", "calculat", "read", "generat"]);
        let must_be_given = field.required != DraftRequired::No || draft.key.contains(&field.name);
        match (is_never && !is_once, must_be_given) {
            (true, false) => {
                field.read_only = true;
                if is_no(text) || words.contains("never") {
                    let says = format!("LOOK: \"{text}\" may mean that a file gives it once: then take read_only out");
                    field.remarks.push(says);
                }
            }
            _ => field.remarks.push(format!(
                "LOOK: changed \"{text}\": whether an update may hold it is for you to say (read_only leaves it out always)"
            )),
        }
    }

    fn range(&self, row: &[String], field: &mut DraftField, draft: &mut Draft) {
        let low = self.cell(row, Role::Minimum).map(ToOwned::to_owned);
        let high = self.cell(row, Role::Maximum).map(ToOwned::to_owned);
        let (mut low, mut high) = (low, high);
        if let Some(range) = self.cell(row, Role::Range) {
            let lower = range.to_lowercase();
            let parts: Vec<&str> = ["..", " to ", " - ", "–", "-", " and "]
                .iter()
                .find_map(|mark| lower.trim_start_matches("between ").split_once(mark))
                .map(|(low, high)| vec![low, high])
                .unwrap_or_default();
            match parts.as_slice() {
                [from, to] => (low, high) = (Some(from.trim().to_owned()), Some(to.trim().to_owned())),
                _ => draft.not_understood.push(format!("{}: the range \"{range}\"", field.name)),
            }
        }
        for (end, slot) in [(low, &mut field.range.0), (high, &mut field.range.1)] {
            let Some(end) = end else { continue };
            match super::guess::bound(field.kind, &end) {
                Some(bound) => *slot = Some(bound),
                None => draft.not_understood.push(format!("{}: the bound \"{end}\"", field.name)),
            }
        }
    }

    fn values(
        &self,
        row: &[String],
        field: &mut DraftField,
        many: bool,
        draft: &mut Draft,
        lists: &mut Lists<'_>,
    ) {
        let text = self.cell(row, Role::Values).unwrap_or_default();
        let elsewhere = if field.kind == KindName::Boolean { None } else { lists.elsewhere(text, field) };
        let listed = match elsewhere {
            Some(Elsewhere { values, place }) => {
                let noun = if values.len() == 1 { "value" } else { "values" };
                field.remarks.push(format!("{} {noun} from {place}", values.len()));
                field.kind = KindName::Picklist;
                values
            }
            None => listed(text),
        };
        let is_list = listed.len() > 1 || field.kind == KindName::Picklist;
        if field.kind == KindName::Boolean && listed.len() <= 2 {
            return;
        }
        if !is_list {
            if !text.is_empty() {
                draft.not_understood.push(format!("{}: the values \"{text}\"", field.name));
            }
            return;
        }
        if matches!(field.kind, KindName::Reference | KindName::Date | KindName::Decimal) {
            draft.not_understood.push(format!("{}: values of kind {}", field.name, field.kind.name()));
            return;
        }
        field.kind = KindName::Picklist;
        (field.length, field.range) = ((None, None), (None, None));
        field.picklist = Some(draft.list(&field.name.clone(), listed));
        if many || self.cell(row, Role::Separator).is_some() {
            let separator = self.cell(row, Role::Separator).unwrap_or(";");
            field.many = Some((separator.to_owned(), None));
        }
    }

    fn date_form(&self, form: &str, field: &mut DraftField, draft: &mut Draft) {
        if !matches!(field.kind, KindName::Date | KindName::Datetime) {
            // Of other kinds it is a remark for people.
            draft.not_understood.push(format!("{}: the format \"{form}\"", field.name));
            return;
        }
        for one in form.split(';').map(str::trim) {
            // People write the parts of a date in capitals too.
            let written = [one.to_owned(), one.replace('D', "d").replace('Y', "y").replace("mm", "MM")];
            let known = written.iter().find(|form| crate::value::DatePattern::new(form).is_ok());
            match known {
                Some(form) if form == "yyyy-MM-dd" => {}
                Some(form) => field.dates.push(form.clone()),
                None => draft.not_understood.push(format!("{}: the format \"{one}\"", field.name)),
            }
        }
    }
}

fn is_yes(text: &str) -> bool {
    let word = text.trim().to_lowercase();
    ["y", "yes", "true", "1", "x", "✓", "✔", "ja", "oui", "si", "sí"].contains(&word.as_str())
}

fn is_no(text: &str) -> bool {
    let word = text.trim().to_lowercase();
    ["n", "no", "false", "0", "-", "–", "none", "n/a", "nein", "non", ""].contains(&word.as_str())
}

/// The values of a cell, each with its code and label: `E = Excellent; G = Good`.
fn listed(text: &str) -> Vec<(String, Option<String>)> {
    let text = text.trim();
    let mark = ['\n', ';', '|', ','].into_iter().find(|mark| text.contains(*mark));
    let parts: Vec<&str> = match mark {
        Some(mark) => text.split(mark).map(str::trim).filter(|part| !part.is_empty()).collect(),
        None => vec![text].into_iter().filter(|text| !text.is_empty()).collect(),
    };
    let split = |part: &str| {
        [" = ", "=", ": ", " - ", " – ", " — "].iter().find_map(|mark| {
            let (code, label) = part.split_once(mark)?;
            let (code, label) = (code.trim(), label.trim());
            (!code.is_empty() && !label.is_empty() && code.chars().count() <= 24)
                .then(|| (code.to_owned(), Some(label.to_owned())))
        })
    };
    let pairs: Vec<Option<(String, Option<String>)>> = parts.iter().map(|part| split(part)).collect();
    // Where only some have a mark, it belongs to the value.
    let paired = pairs.iter().flatten().count();
    let plain = |part: &str| {
        let bare = part.trim_matches(['"', '\'']).to_owned();
        (bare, None)
    };
    parts
        .iter()
        .zip(pairs)
        .map(|(part, pair)| pair.filter(|_| paired * 2 > parts.len()).unwrap_or_else(|| plain(part)))
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn headings_of_dictionaries_are_known_by_likeness() {
        let headings: Vec<String> =
            ["Field Name", "Descripton", "Data-Type", "Max. length", "Mandatory?", "Allowed values", "Owner"]
                .map(str::to_owned)
                .to_vec();
        let dictionary = Dictionary::new(&headings);
        let wanted = [
            Some(Role::Name),
            Some(Role::Help),
            Some(Role::Kind),
            Some(Role::Length),
            Some(Role::Required),
            Some(Role::Values),
            None,
        ];
        assert_eq!(dictionary.roles, wanted);
    }

    #[test]
    fn values_are_listed_in_the_ways_people_write() {
        let pair = |code: &str, label: &str| (code.to_owned(), Some(label.to_owned()));
        let bare = |code: &str| (code.to_owned(), None);
        for (text, wanted) in [
            ("E = Excellent; G = Good", vec![pair("E", "Excellent"), pair("G", "Good")]),
            ("E: Excellent\nG: Good", vec![pair("E", "Excellent"), pair("G", "Good")]),
            ("Oak, Ash, Elm", vec![bare("Oak"), bare("Ash"), bare("Elm")]),
            ("Y|N", vec![bare("Y"), bare("N")]),
            ("1 - Low, 2 - High", vec![pair("1", "Low"), pair("2", "High")]),
            ("semi-detached; mid-terrace", vec![bare("semi-detached"), bare("mid-terrace")]),
            ("", vec![]),
        ] {
            assert_eq!(listed(text), wanted, "{text}");
        }
    }
}
