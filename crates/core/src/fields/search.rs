//! Finding fields.

use crate::headings::loose;
use crate::likeness::likeness;
use crate::schema::{Field, RecordSchema};

/// A field that was found.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Hit {
    /// The field.
    pub field: usize,
    /// How well it fits: 100 for its very name.
    pub score: u32,
    /// What of it fits, where that is not plain from its name and label.
    pub because: Option<String>,
}

/// The fields that fit every one of the words, the best first; all of them in the schema's order where there are no
/// words.
///
/// ```
/// use tidy_gate_core::fields::search;
/// use tidy_gate_core::schema::{NoLists, RecordSchema};
/// let schema = "format = 1\nrecord = \"tree\"\n[[field]]\nname = \"girth\"\nkind = \"decimal\"\n";
/// let schema = RecordSchema::read(schema, &mut NoLists).unwrap();
/// assert_eq!(search(&schema, &["grith".to_owned()]).len(), 1);
/// ```
#[must_use]
pub fn search(schema: &RecordSchema, words: &[String]) -> Vec<Hit> {
    let all = schema.fields.iter().enumerate();
    let whole = loose(&words.join(" "));
    if whole.is_empty() {
        return all.map(|(field, _)| Hit { field, score: 0, because: None }).collect();
    }
    // Several words that each name a field ask for those fields.
    let exact = |word: &String| {
        let is_it = |(_, field): &(usize, &Field)| field.name == *word || loose(&field.label) == loose(word);
        schema.fields.iter().enumerate().find(is_it).map(|found| found.0)
    };
    let named: Option<Vec<usize>> = words.iter().map(exact).collect();
    if let Some(named) = named.filter(|named| named.len() > 1) {
        let hit = |field| Hit { field, score: 100, because: None };
        return named.into_iter().map(hit).collect();
    }
    let words: Vec<String> = words.iter().flat_map(|word| tokens(word)).collect();
    let mut hits: Vec<Hit> =
        all.filter_map(|(number, field)| hit(schema, field, number, &words, &whole)).collect();
    hits.sort_by_key(|hit| (std::cmp::Reverse(hit.score), hit.field));
    // Where something fits well, what is only like it is no answer.
    let best = hits.first().map_or(0, |hit| hit.score);
    let least = match best {
        0..60 => 0,
        60..100 => 25,
        _ => 50,
    };
    hits.retain(|hit| hit.score >= least);
    hits
}

/// The words of a text, in lower case.
fn tokens(text: &str) -> Vec<String> {
    let mut tokens: Vec<String> = Vec::new();
    let mut before = ' ';
    for c in text.chars() {
        let begins = !before.is_alphanumeric() || before.is_lowercase() && c.is_uppercase();
        if c.is_alphanumeric() {
            match tokens.last_mut().filter(|_| !begins) {
                Some(token) => token.extend(c.to_lowercase()),
                None => tokens.push(c.to_lowercase().collect()),
            }
        }
        before = c;
    }
    tokens
}

fn hit(schema: &RecordSchema, field: &Field, number: usize, words: &[String], whole: &str) -> Option<Hit> {
    let found = |score, because| Some(Hit { field: number, score, because });
    if loose(&field.name) == whole || loose(&field.label) == whole {
        return found(100, None);
    }
    if let Some(also) = field.also.iter().find(|also| loose(also) == whole) {
        return found(90, Some(format!("also \"{also}\"")));
    }
    let mut sum = 0;
    let mut reason = None;
    for word in words {
        let mut best = (0, None);
        let mut see = |weight: u32, text: &str, because: &dyn Fn() -> Option<String>| {
            let like = tokens(text).iter().map(|token| near(word, token)).max().unwrap_or(0);
            let score = like * weight / 100;
            if score > best.0 {
                best = (score, because());
            }
        };
        see(80, &field.name, &|| None);
        see(80, &field.label, &|| None);
        for also in &field.also {
            see(70, also, &|| Some(format!("also \"{also}\"")));
        }
        see(60, field.stated.kind.name(), &|| None);
        if let Some(help) = &field.stated.help {
            see(40, help, &|| Some(help.clone()));
        }
        if let Some(list) = field.stated.picklist.and_then(|list| schema.picklists.get(list)) {
            see(40, &list.name, &|| None);
            for value in list.values.iter() {
                let label = value.label.as_deref().unwrap_or_default();
                for text in
                    [value.code.as_str(), label].into_iter().chain(value.also.iter().map(String::as_str))
                {
                    see(45, text, &|| Some(format!("value {}", named(&value.code, label))));
                }
            }
        }
        if best.0 == 0 {
            return None;
        }
        sum += best.0;
        reason = reason.or(best.1);
    }
    let count = u32::try_from(words.len()).unwrap_or(1).max(1);
    found(sum / count, reason)
}

fn named(code: &str, label: &str) -> String {
    if label.is_empty() || label == code { code.to_owned() } else { format!("{label} ({code})") }
}

/// How near a word is to another, of a hundred.
fn near(word: &str, token: &str) -> u32 {
    let (word_len, token_len) = (word.chars().count(), token.chars().count());
    if word == token {
        return 100;
    }
    if word_len >= 2 && token.starts_with(word) {
        return 90;
    }
    if word_len >= 3 && token.contains(word) {
        return 75;
    }
    // Words of other lengths are other words.
    if word_len < 4 || word_len.abs_diff(token_len) > 2 {
        return 0;
    }
    if likeness(word, token) >= 0.74 { 60 } else { 0 }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::schema::NoLists;

    #[test]
    fn fields_are_found_by_whatever_people_remember_of_them() {
        let schema = "format = 1\nrecord = \"tree\"\n\
            [[field]]\nname = \"tag_no\"\nlabel = \"Tag number\"\nalso = [\"Disc\"]\nkind = \"text\"\n\
            [[field]]\nname = \"girth_cm\"\nlabel = \"Girth (cm)\"\nkind = \"decimal\"\nhelp = \"Round the trunk at chest height.\"\n\
            [[field]]\nname = \"condition\"\nlabel = \"Condition\"\nkind = \"picklist\"\npicklist = \"c\"\n\
            [[field]]\nname = \"plantedOn\"\nlabel = \"Planted\"\nkind = \"date\"\n\
            [[field]]\nname = \"height_m\"\nlabel = \"Height (m)\"\nkind = \"decimal\"\n\
            [picklist.c]\nvalues = [{ code = \"E\", label = \"Excellent\" }, { code = \"D\", label = \"Dead\" }]\n";
        let schema = RecordSchema::read(schema, &mut NoLists).unwrap();
        for (words, wanted) in [
            ("tag_no", vec!["tag_no"]),
            ("TAG NUMBER", vec!["tag_no"]),
            ("disc", vec!["tag_no"]),
            ("girt", vec!["girth_cm"]),
            ("grith", vec!["girth_cm"]),
            ("trunk", vec!["girth_cm"]),
            ("excelent", vec!["condition"]),
            ("planted on", vec!["plantedOn"]),
            ("decimal", vec!["girth_cm", "height_m"]),
            ("height", vec!["height_m", "girth_cm"]),
            ("weather", vec![]),
        ] {
            let words: Vec<String> = words.split(' ').map(str::to_owned).collect();
            let found: Vec<&str> =
                search(&schema, &words).iter().map(|hit| schema.fields[hit.field].name.as_str()).collect();
            assert_eq!(found, wanted, "{words:?}");
        }
        assert_eq!(search(&schema, &[]).len(), 5);
    }
}
