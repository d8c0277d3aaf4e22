//! Which column belongs to which field.

use super::alike::{Known, NEAR, Vocabulary, Worded};
use super::loose::loose;
use super::planned::{PlanColumn, PlanPairing};
use crate::schema::record::Field;
use schemars::JsonSchema;
use serde::Serialize;
use std::collections::HashMap;
use std::sync::atomic::{AtomicU32, Ordering};

/// By what a column was paired.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum How {
    /// By the field's technical name.
    Name,
    /// By its label.
    Label,
    /// By another heading the schema knows for it.
    Also,
    /// By the plan.
    Plan,
    /// A heading like this one: proposed, never taken.
    Likeness,
    /// What the column holds: proposed, never taken.
    Content,
    /// By its place, in a file without headings.
    Position,
    /// Left out on purpose.
    LeftOut,
    /// Not paired.
    None,
}

/// What became of a column.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Paired {
    /// It belongs to this field.
    Field {
        /// The field.
        field: usize,
        /// By what.
        how: How,
        /// Whether the heading is the very word, letter by letter.
        exact: bool,
    },
    /// The plan leaves it out on purpose.
    LeftOut,
    /// It is one of our own that a file of held rows carries.
    Own,
    /// It has no heading.
    Blank,
    /// It has the heading of an earlier column, and no field claims either.
    Repeated {
        /// The earlier column.
        first: usize,
    },
    /// No field has this heading; the nearest ones, the likeliest first.
    Unknown {
        /// Likely fields.
        nearest: Vec<usize>,
    },
    /// Loosely the heading of several fields.
    Unclear {
        /// The fields.
        fields: Vec<usize>,
    },
    /// Its field went to another column whose heading is nearer to the field's.
    Taken {
        /// The field.
        field: usize,
        /// The column that took it.
        by: usize,
    },
    /// It claims a field at the same rank as other columns do.
    Shared {
        /// The field.
        field: usize,
        /// The other columns.
        with: Vec<usize>,
    },
}

/// The pairing of a file's columns with the fields of a record.
#[derive(Debug, Clone, Default)]
pub struct Pairing {
    /// One for each column.
    pub columns: Vec<Paired>,
    /// The column of each field, if it has one.
    pub column_of: Vec<Option<usize>>,
    /// Fields that are claimed by several columns at the same rank.
    pub shared: Vec<usize>,
    /// Columns that the plan names and the file does not have.
    pub gone: Vec<PlanColumn>,
    /// How many headings that no field has were not held against the fields, since they are too many.
    pub unsought: u32,
}

/// The headings of the columns that a file of held rows begins with.
pub const OWN_HEADINGS: [&str; 2] = ["tidy-gate row", "tidy-gate reasons"];

/// The headings of the columns that a marked workbook ends with.
pub const MARK_HEADINGS: [&str; 2] = ["tidy-gate mark", "tidy-gate reasons"];

/// Whether a column of this heading was written by an earlier check: nobody judges it.
#[must_use]
pub fn is_ours(heading: &str) -> bool {
    let heading = heading.trim();
    OWN_HEADINGS.contains(&heading) || MARK_HEADINGS.contains(&heading)
}

/// Whether these headings are those of a file of held rows.
#[must_use]
pub fn is_own(headings: &[String]) -> bool {
    headings.iter().zip(OWN_HEADINGS).filter(|(heading, own)| heading.trim() == *own).count()
        == OWN_HEADINGS.len()
}

/// By rank: what a plan says comes before all.
const HOWS: [How; 7] = [How::Plan, How::Name, How::Label, How::Also, How::Name, How::Label, How::Also];
/// The ranks from here on are loose.
const LOOSE: usize = 4;

/// What a heading claims: the field and the rank.
enum Claim {
    Field { field: usize, rank: usize },
    Unclear(Vec<usize>),
    LeftOut,
    None,
}

/// Pairs headings with fields: what the plan says, exact name, exact label, exact other heading, then the same
/// loosely. Two loose candidates are never decided.
///
/// ```
/// use tidy_gate_core::headings::{PlanPairing, pair};
/// use tidy_gate_core::schema::{NoLists, RecordSchema};
/// let schema = "format = 1\nrecord = \"tree\"\n[[field]]\nname = \"tag\"\nkind = \"text\"\n";
/// let schema = RecordSchema::read(schema, &mut NoLists).unwrap();
/// let headings = ["Surveyor".to_owned(), "TAG".to_owned()];
/// assert_eq!(pair(&headings, &schema.fields, &PlanPairing::default()).column_of, [Some(1)]);
/// ```
#[must_use]
pub fn pair(headings: &[String], fields: &[Field], plan: &PlanPairing) -> Pairing {
    let words = Words::of(fields);
    let claims: Vec<_> = headings
        .iter()
        .enumerate()
        .map(|(column, heading)| match plan.columns.get(column).copied().flatten() {
            Some(Some(field)) => Claim::Field { field, rank: 0 },
            Some(None) => Claim::LeftOut,
            None => words.claim(heading),
        })
        .collect();
    let mut columns = vec![Paired::Blank; headings.len()];
    let mut column_of = vec![None; fields.len()];
    let mut shared = Vec::new();
    let mut claimants_of: Vec<Vec<(usize, usize)>> = vec![Vec::new(); fields.len()];
    for (column, claim) in claims.iter().enumerate() {
        if let Claim::Field { field, rank } = claim
            && let Some(claimants) = claimants_of.get_mut(*field)
        {
            claimants.push((*rank, column));
        }
    }
    for (field, (column_slot, claimants)) in column_of.iter_mut().zip(claimants_of).enumerate() {
        let Some(&(best, first)) = claimants.iter().min() else { continue };
        // Of loose claims none is better than another.
        let is_equal = |rank: usize| rank == best || best >= LOOSE;
        let equals: Vec<_> = claimants.iter().filter(|claim| is_equal(claim.0)).map(|c| c.1).collect();
        for &(rank, column) in &claimants {
            let Some(slot) = columns.get_mut(column) else { continue };
            *slot = if !is_equal(rank) {
                Paired::Taken { field, by: first }
            } else if equals.len() > 1 {
                let with = equals.iter().copied().filter(|other| *other != column).collect();
                Paired::Shared { field, with }
            } else {
                let how = HOWS.get(rank).copied().unwrap_or(How::Name);
                Paired::Field { field, how, exact: rank < LOOSE }
            };
        }
        if equals.len() > 1 {
            shared.push(field);
        } else {
            *column_slot = Some(first);
        }
    }
    let mut pairing = Pairing { columns, column_of, shared, gone: plan.gone.clone(), unsought: 0 };
    unclaimed(headings, &claims, fields, &mut pairing);
    pairing
}

/// Pairs the columns of a table without headings: as the plan says, or else with the fields in their order; the
/// surplus is left out.
#[must_use]
pub fn by_position(width: usize, fields: usize, plan: &PlanPairing) -> Pairing {
    let is_planned = plan.columns.iter().any(Option::is_some) || !plan.gone.is_empty();
    let field = |column: usize| match is_planned {
        true => plan.columns.get(column).copied().flatten().flatten(),
        false => (column < fields).then_some(column),
    };
    let paired = |column| match field(column) {
        Some(field) => Paired::Field { field, how: How::Position, exact: true },
        None if is_planned => Paired::LeftOut,
        None => Paired::Blank,
    };
    let mut column_of = vec![None; fields];
    for column in 0..width {
        if let Some(slot) = field(column).and_then(|field| column_of.get_mut(field)) {
            *slot = Some(column);
        }
    }
    Pairing {
        columns: (0..width).map(paired).collect(),
        column_of,
        shared: Vec::new(),
        gone: plan.gone.clone(),
        unsought: 0,
    }
}

/// What is to be said of the columns that claim no field.
fn unclaimed(headings: &[String], claims: &[Claim], fields: &[Field], pairing: &mut Pairing) {
    let mut seen: HashMap<String, usize> = HashMap::new();
    let mut likely: Option<Likely> = None;
    for (column, (heading, claim)) in headings.iter().zip(claims).enumerate() {
        let found = match claim {
            Claim::Field { .. } => continue,
            Claim::LeftOut => Paired::LeftOut,
            _ if is_ours(heading) => Paired::Own,
            _ if is_blank(heading) => Paired::Blank,
            Claim::Unclear(fields) => Paired::Unclear { fields: fields.clone() },
            Claim::None => {
                let form =
                    Some(loose(heading)).filter(|form| !form.is_empty()).unwrap_or_else(|| heading.clone());
                match seen.get(&form) {
                    Some(&first) => Paired::Repeated { first },
                    None => {
                        seen.insert(form, column);
                        let likely = likely.get_or_insert_with(|| Likely::of(fields));
                        Paired::Unknown { nearest: nearest(heading, likely, &pairing.column_of) }
                    }
                }
            }
        };
        if let Some(slot) = pairing.columns.get_mut(column) {
            *slot = found;
        }
    }
    pairing.unsought = likely.map_or(0, |likely| likely.unsought.into_inner());
}

fn is_blank(heading: &str) -> bool {
    heading.chars().all(|c| {
        c.is_whitespace() || matches!(c, '\u{200B}'..='\u{200F}' | '\u{2060}' | '\u{FEFF}' | '\u{AD}')
    })
}

/// The fields with a word like the heading that are about as likely as the likeliest, three at most; fields without a
/// column before those that have one.
fn nearest(heading: &str, likely: &Likely, column_of: &[Option<usize>]) -> Vec<usize> {
    let mut likely: Vec<(bool, f64, usize)> = likely
        .to(heading)
        .into_iter()
        .map(|(number, best)| (column_of.get(number).copied().flatten().is_some(), best, number))
        .collect();
    likely.sort_by(|a, b| a.0.cmp(&b.0).then(b.1.total_cmp(&a.1)).then(a.2.cmp(&b.2)));
    let Some(&(is_taken, best, _)) = likely.first() else { return Vec::new() };
    let is_near = |found: &&(bool, f64, usize)| found.0 == is_taken && found.1 >= best - TIE;
    let most = if is_taken { 1 } else { 3 };
    likely.iter().filter(is_near).take(most).map(|found| found.2).collect()
}

/// What is so much less alike is as likely.
const TIE: f64 = 0.12;

/// The words of fields, made ready to be held against headings.
#[derive(Debug)]
pub struct Likely {
    words: Vec<Vec<Worded>>,
    vocabulary: Vocabulary,
    /// How many comparisons letter by letter are left: of very many headings the last are likened by words alone.
    by_letters: AtomicU32,
    by_words: AtomicU32,
    /// How many headings came when none was left.
    unsought: AtomicU32,
}

/// So many comparisons letter by letter are made for one file, and so many by words: less than a second's worth each. The
/// headings behind them get no proposals; who has thousands that nobody knows has another file than he thinks.
const MOST_BY_LETTERS: u32 = 150_000;
const MOST_BY_WORDS: u32 = 600_000;

impl Likely {
    /// Of these fields.
    #[must_use]
    pub fn of(fields: &[Field]) -> Self {
        let mut vocabulary = Vocabulary::default();
        let words = |field: &Field| {
            let words = [&field.name, &field.label].into_iter().chain(&field.also);
            let mut worded: Vec<Worded> = words.map(|word| Worded::of(word)).collect();
            worded.dedup();
            worded.iter_mut().for_each(|worded| vocabulary.take(worded));
            worded
        };
        let words = fields.iter().map(words).collect();
        Self {
            words,
            vocabulary,
            by_letters: AtomicU32::new(MOST_BY_LETTERS),
            by_words: AtomicU32::new(MOST_BY_WORDS),
            unsought: AtomicU32::new(0),
        }
    }

    /// The fields with a word like the heading, each with how alike the two are.
    #[must_use]
    pub fn to(&self, heading: &str) -> Vec<(usize, f64)> {
        let cost = u32::try_from(self.words.len()).unwrap_or(u32::MAX);
        let less = |left: u32| left.checked_sub(cost);
        if self.by_words.fetch_update(Ordering::Relaxed, Ordering::Relaxed, less).is_err() {
            self.unsought.fetch_add(1, Ordering::Relaxed);
            return Vec::new();
        }
        let worded = Worded::of(heading);
        let mut known = Known::new(&worded, &self.vocabulary);
        let by_letters = || {
            let less = |left: u32| left.checked_sub(1);
            self.by_letters.fetch_update(Ordering::Relaxed, Ordering::Relaxed, less).is_ok()
        };
        let mut best =
            |words: &[Worded]| words.iter().map(|word| known.alike(word, by_letters)).fold(0.0, f64::max);
        let all: Vec<(usize, f64)> = self.words.iter().map(|words| best(words)).enumerate().collect();
        all.into_iter().filter(|found| found.1 >= NEAR).collect()
    }
}

/// The words that name the fields of a record, for asking how well a row of cells does as headings.
#[derive(Debug)]
pub struct HeadingWords<'a>(Words<'a>);

impl<'a> HeadingWords<'a> {
    /// The words of these fields.
    #[must_use]
    pub fn of(fields: &'a [Field]) -> Self {
        Self(Words::of(fields))
    }

    /// How many fields the cells name.
    #[must_use]
    pub fn named_by(&self, cells: &[String]) -> usize {
        let mut named: Vec<_> = cells.iter().filter_map(|cell| self.field(cell)).collect();
        named.sort_unstable();
        named.dedup();
        named.len()
    }

    /// The field that a cell names.
    #[must_use]
    pub fn field(&self, cell: &str) -> Option<usize> {
        // No heading is longer, and most long cells are text.
        if cell.len() > 400 {
            return None;
        }
        match self.0.claim(cell) {
            Claim::Field { field, .. } => Some(field),
            Claim::Unclear(_) | Claim::LeftOut | Claim::None => None,
        }
    }
}

/// Every word that names a field, exactly and loosely.
#[derive(Debug)]
struct Words<'a> {
    exact: HashMap<&'a str, (usize, usize)>,
    loose: HashMap<String, Vec<(usize, usize)>>,
}

impl<'a> Words<'a> {
    fn of(fields: &'a [Field]) -> Self {
        let mut words = Words { exact: HashMap::new(), loose: HashMap::new() };
        for (number, field) in fields.iter().enumerate() {
            let named = [(0, &field.name), (1, &field.label)]
                .into_iter()
                .chain(field.also.iter().map(|word| (2, word)));
            for (rank, word) in named {
                let claim = (rank + 1, number);
                words
                    .exact
                    .entry(word.trim())
                    .and_modify(|before| *before = claim.min(*before))
                    .or_insert(claim);
                words.loose.entry(loose(word)).or_default().push(claim);
            }
        }
        words
    }

    fn claim(&self, heading: &str) -> Claim {
        if let Some(&(rank, field)) = self.exact.get(heading.trim()) {
            return Claim::Field { field, rank };
        }
        let form = loose(heading);
        let Some(found) = self.loose.get(&form).filter(|_| !form.is_empty()) else { return Claim::None };
        let mut fields: Vec<_> = found.iter().map(|claim| claim.1).collect();
        fields.sort_unstable();
        fields.dedup();
        match (fields.as_slice(), found.iter().min()) {
            ([field], Some(best)) => Claim::Field { field: *field, rank: LOOSE - 1 + best.0 },
            _ => Claim::Unclear(fields),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::schema::{NoLists, RecordSchema};

    fn paired(headings: &[&str]) -> Vec<Paired> {
        let schema = "format = 1\nrecord = \"tree\"\n\
            [[field]]\nname = \"tag_no\"\nlabel = \"Tag number\"\nalso = [\"Tree tag\"]\nkind = \"text\"\n\
            [[field]]\nname = \"ward\"\nlabel = \"Ward\"\nkind = \"text\"\n\
            [[field]]\nname = \"ward_area\"\nlabel = \"Area\"\nalso = [\"WARD!\"]\nkind = \"text\"\n";
        let schema = RecordSchema::read(schema, &mut NoLists).unwrap();
        let headings: Vec<_> = headings.iter().map(ToString::to_string).collect();
        pair(&headings, &schema.fields, &PlanPairing::default()).columns
    }

    fn field(field: usize, how: How, exact: bool) -> Paired {
        Paired::Field { field, how, exact }
    }

    #[test]
    fn exact_wins_over_loose_and_nothing_is_decided_silently() {
        assert_eq!(
            paired(&["TAG NUMBER", "Ward", "Area"]),
            [field(0, How::Label, false), field(1, How::Label, true), field(2, How::Label, true),]
        );
        assert_eq!(
            paired(&["Tag number", "tag_no"]),
            [Paired::Taken { field: 0, by: 1 }, field(0, How::Name, true)]
        );
        assert_eq!(
            paired(&["Tag-number", "TAG NUMBER"]),
            [Paired::Shared { field: 0, with: vec![1] }, Paired::Shared { field: 0, with: vec![0] },]
        );
        assert_eq!(paired(&["w a r d"]), [Paired::Unclear { fields: vec![1, 2] }]);
        assert_eq!(
            paired(&["remark", "", "Remark", " \u{FEFF}"]),
            [
                Paired::Unknown { nearest: vec![] },
                Paired::Blank,
                Paired::Repeated { first: 0 },
                Paired::Blank,
            ]
        );
        assert_eq!(
            paired(&["Tree tags", "Ward"]),
            [Paired::Unknown { nearest: vec![0] }, field(1, How::Label, true)]
        );
    }
}
