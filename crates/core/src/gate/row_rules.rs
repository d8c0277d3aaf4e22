//! What is asked of whole rows: rules between fields, blocks that are filled as a whole, permitted combinations.

use super::compiled::Compiled;
use super::kinds::Program;
use super::mark::Mark;
use super::places::LineCounter;
use super::quick::{Quick, Says};
use super::seen::Seen;
use super::verdict::Given;
use super::writing::Cell;
use crate::block::Block;
use crate::catalogue::{Code, Level};
use crate::condition::{self, Condition, Held, Holds, Scalar};
use crate::finding::{Finding, MASK};
use crate::numerals::grouped;
use crate::plan::Reading;
use crate::rows::Cells;
use crate::scan::is_plain;
use crate::schema::{Asks, Combination, Rule, Together};
use crate::value::Date;
use std::borrow::Cow;

/// The rules of a gate, ready.
#[derive(Debug)]
pub(super) struct RowRules {
    rules: Vec<Ready>,
    /// The values of defaults, by field.
    defaults: Vec<Option<Scalar<'static>>>,
    /// Whether a blank cell is what the target already holds, which nobody knows here.
    blank_is_unknown: bool,
    /// The quick way to whether a row is one that the file may change.
    scope: Quick,
}

/// A rule with the quick ways of its conditions.
#[derive(Debug)]
struct Ready {
    when: Quick,
    must: Quick,
}

impl RowRules {
    /// The rules of a gate; nothing where there are none.
    pub(super) fn of(gate: &Compiled) -> Option<Self> {
        let schema = &gate.schema;
        let scope = gate.scope_condition();
        if schema.rules.is_empty()
            && schema.blocks.is_empty()
            && schema.combinations.is_empty()
            && scope.is_none()
        {
            return None;
        }
        let mode = gate.settings.mode;
        let default = |field: &crate::schema::Field| {
            let default = field.default.as_deref().filter(|_| mode.adds())?;
            let program = Program::of(field, schema, &gate.settings, &Reading::default());
            let given = Given::from(default);
            program.scalar(given, &schema.picklists).map(owned)
        };
        let ready = |rule: &Rule| Ready {
            when: rule.when.as_ref().map_or(Quick::Slow, |when| Quick::of(&when.root, gate)),
            must: match &rule.asks {
                Asks::Must(must, _) => Quick::of(&must.root, gate),
                Asks::Require(_) | Asks::Forbid(_) => Quick::Slow,
            },
        };
        Some(Self {
            rules: schema.rules.iter().map(ready).collect(),
            defaults: schema.fields.iter().map(default).collect(),
            blank_is_unknown: !mode.adds(),
            scope: scope.map_or(Quick::Slow, |condition| Quick::of(&condition.root, gate)),
        })
    }

    /// The judged rows that the file may not change. What is wrong with their cells is not known yet.
    pub(super) fn outside(&self, gate: &Compiled, block: &Block, cells: &Cells, rows: &mut Vec<u32>) {
        rows.clear();
        let Some(condition) = gate.scope_condition() else { return };
        let mut says = Vec::new();
        self.scope.tell(block, cells, &[], &mut says);
        for (row, says) in says.iter().enumerate() {
            let view = RowSeen { gate, rules: self, block, cells, row, stopped: &[], judges: true };
            // A quick way may pass over what is wrong with a cell: asked again, such a cell is unknown.
            let is_faulty = condition.fields.iter().any(|field| view.is_faulty(*field));
            let holds = if is_faulty { condition.holds(&view) } else { view.holds(condition, *says) };
            // What a fault alone leaves open is no ground for leaving a row out: it is held with its fault.
            if holds != Holds::Yes && !(is_faulty && holds == Holds::Unknown) {
                rows.push(u32::try_from(row).unwrap_or(u32::MAX));
            }
        }
    }

    /// Marks the rows of a block; the marks of its cells are there already.
    pub(super) fn mark(&self, gate: &Compiled, block: &Block, cells: &Cells, marks: &mut Vec<Mark>) {
        let mut stopped: Vec<(u32, u16)> = marks
            .iter()
            .filter(|mark| mark.level == Level::Stop && mark.column > 0)
            .map(|mark| (mark.row, mark.column))
            .collect();
        stopped.sort_unstable();
        let schema = &gate.schema;
        let mut found: Vec<Mark> = Vec::new();
        let mut push = |row: usize, column: usize, rule: usize, code: Code, level: Level| {
            found.push(Mark::at(cells, row, column, code, gate.told_level(code, level)).by(rule));
        };
        let view =
            |row: usize| RowSeen { gate, rules: self, block, cells, row, stopped: &stopped, judges: false };
        let (mut applies, mut kept) = (Vec::new(), Vec::new());
        for (number, (rule, ready)) in schema.rules.iter().zip(&self.rules).enumerate() {
            // Rule by rule: most rows need no more than the bytes of a few cells.
            ready.when.tell(block, cells, &stopped, &mut applies);
            ready.must.tell(block, cells, &stopped, &mut kept);
            for (row, (applies, kept)) in applies.iter().zip(&kept).enumerate() {
                if *kept == Says::Yes || rule.when.is_some() && *applies == Says::No {
                    continue;
                }
                let view = view(row);
                if let Some(when) = &rule.when
                    && view.holds(when, *applies) != Holds::Yes
                {
                    continue;
                }
                let mut each = |fields: &[usize], wanted: fn(Filled) -> bool, code: Code| {
                    for field in fields.iter().filter(|field| wanted(view.filled(**field))) {
                        // That a needed field has no column is told once.
                        if gate.column_of(*field).is_none() && gate.is_needed(*field) {
                            continue;
                        }
                        let column = gate.column_of(*field).map_or(0, |column| column + 1);
                        push(row, column, number, code, rule.level);
                    }
                };
                match &rule.asks {
                    Asks::Require(fields) => each(fields, |filled| filled == Filled::No, Code::RuleRequired),
                    Asks::Forbid(fields) => each(fields, |filled| filled == Filled::Yes, Code::RuleForbidden),
                    Asks::Must(must, _) => {
                        if view.holds(must, *kept) == Holds::No {
                            push(row, 0, number, Code::RuleBroken, rule.level);
                        }
                    }
                }
            }
        }
        if schema.blocks.is_empty() && schema.combinations.is_empty() {
            marks.extend(found);
            return;
        }
        for row in 0..cells.len() {
            let view = view(row);
            for (number, block) in schema.blocks.iter().enumerate() {
                if !view.missing(block).is_empty() {
                    push(row, 0, number, Code::BlockIncomplete, Level::Stop);
                }
            }
            for (number, combination) in schema.combinations.iter().enumerate() {
                if view.combined(combination).is_some_and(|values| !combination.allowed.contains(&values)) {
                    push(row, 0, number, Code::CombinationNotPermitted, Level::Stop);
                }
            }
        }
        marks.extend(found);
    }

    /// Puts a mark of a rule into words; nothing where it is none.
    pub(super) fn describe(
        &self,
        gate: &Compiled,
        mark: Mark,
        block: &Block,
        cells: &Cells,
        lines: &mut LineCounter<'_>,
        finding: &mut Finding,
    ) -> Option<()> {
        let schema = &gate.schema;
        let number = usize::from(mark.rule);
        let row = mark.row as usize;
        let view = RowSeen { gate, rules: self, block, cells, row, stopped: &[], judges: false };
        let names = |fields: &[usize]| -> Vec<String> {
            fields
                .iter()
                .filter_map(|field| schema.fields.get(*field))
                .map(|field| field.name.clone())
                .collect()
        };
        let mut value = None;
        match mark.code {
            Code::RuleBroken => {
                let rule = schema.rules.get(number)?;
                let Asks::Must(_, text) = &rule.asks else { return None };
                let fields = rule.fields();
                finding.fields = names(&fields);
                value = Some(view.shown(&fields));
                finding.message = rule.message.clone().unwrap_or_else(|| format!("not so: {}", rule.name));
                finding.rule = Some(rule.name.clone());
                finding.expect(text.clone());
            }
            Code::RowOutOfScope => {
                let (condition, text) = gate.settings.plan.scope.as_ref()?.condition.as_ref()?;
                finding.fields = names(&condition.fields);
                value = Some(view.shown(&condition.fields));
                let what = if mark.level == Level::Stop { "" } else { "; it is left out" };
                finding.message = format!("not a record that this file may change{what}");
                finding.expect(text.clone());
            }
            Code::RuleRequired | Code::RuleForbidden => {
                let rule = schema.rules.get(number)?;
                let what =
                    if mark.code == Code::RuleRequired { "required here" } else { "must be blank here" };
                finding.message = match &rule.message {
                    Some(message) => format!("{what}: {message}"),
                    None => format!("{what}: {}", rule.name),
                };
                finding.rule = Some(rule.name.clone());
                if mark.column == 0 {
                    // Fields without a column.
                    if let Asks::Require(fields) = &rule.asks {
                        let absent: Vec<usize> =
                            fields.iter().copied().filter(|field| gate.column_of(*field).is_none()).collect();
                        finding.fields = names(&absent);
                    }
                }
            }
            Code::BlockIncomplete => {
                let together = schema.blocks.get(number)?;
                let missing = view.missing(together);
                finding.fields = names(&missing);
                finding.message = format!("{} is filled in part", together.name);
                finding.rule = Some(together.name.clone());
                finding.expect(format!("{} too, or none of it", finding.fields.join(" and ")));
            }
            Code::CombinationNotPermitted => {
                let combination = schema.combinations.get(number)?;
                finding.fields = names(&combination.fields);
                value = Some(view.shown(&combination.fields));
                finding.message = format!("not permitted together ({})", combination.name);
                finding.rule = Some(combination.name.clone());
                if let Some(values) = view.combined(combination) {
                    partners(combination, &values, &finding.fields.clone())
                        .into_iter()
                        .for_each(|permitted| finding.expect(permitted));
                }
            }
            _ => return None,
        }
        finding.line = Some(lines.of(mark.place, cells.row(row).0));
        if let Some(column) = usize::from(mark.column).checked_sub(1) {
            gate.place(column, finding);
            let text = gate.texts(block, cells, row, &[column]).concat();
            let masked = gate.is_sensitive(column) && !text.is_empty();
            finding.set_value(&text, masked);
        } else if let Some(value) = value {
            finding.set_value(&value, false);
        }
        finding.key = gate.key_of(block, cells, row);
        Some(())
    }
}

/// So many partners of a value are counted.
const MOST_COUNTED: usize = 1_000;

/// What goes with the first value of a combination.
fn partners(combination: &Combination, values: &[String], names: &[String]) -> Option<String> {
    let ([first, ..], [first_name, other_name, ..]) = (values, names) else { return None };
    let rows = combination.allowed.range(vec![first.clone()]..).take_while(|row| row.first() == Some(first));
    let mut partners: Vec<&str> = Vec::new();
    for partner in rows.filter_map(|row| row.get(1)).map(String::as_str) {
        if partners.last() != Some(&partner) {
            partners.push(partner);
        }
        if partners.len() > MOST_COUNTED {
            return Some(format!(
                "with {first_name} {first}: one of more than {} values of {other_name}",
                grouped(MOST_COUNTED as u64)
            ));
        }
    }
    Some(match partners.as_slice() {
        [] => format!("no {first_name} {first} at all"),
        few if few.len() <= 8 => format!("with {first_name} {first}: {other_name} {}", few.join(" or ")),
        many => format!("with {first_name} {first}: one of {} values of {other_name}", many.len()),
    })
}

/// Whether a field of a row is filled.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Filled {
    Yes,
    No,
    /// Only the target knows.
    Unknown,
}

/// A row, as conditions see it.
struct RowSeen<'a> {
    gate: &'a Compiled,
    rules: &'a RowRules,
    block: &'a Block,
    cells: &'a Cells,
    row: usize,
    /// Cells that have a stop, by row and column (from 1), in order.
    stopped: &'a [(u32, u16)],
    /// Whether cells are judged here, since nobody has yet.
    judges: bool,
}

impl RowSeen<'_> {
    fn holds(&self, condition: &Condition, says: Says) -> Holds {
        match says {
            Says::Yes => Holds::Yes,
            Says::No => Holds::No,
            Says::Nothing => condition.holds(self),
        }
    }

    fn is_stopped(&self, column: usize) -> bool {
        let wanted = (u32::try_from(self.row).unwrap_or(u32::MAX), u16::try_from(column + 1).unwrap_or(0));
        !self.stopped.is_empty() && self.stopped.binary_search(&wanted).is_ok()
    }

    /// Whether the cell of a field has a stop of its own, a missing value aside.
    fn is_faulty(&self, field: usize) -> bool {
        let Some(number) = self.gate.column_of(field) else { return false };
        let Some(column) = self.gate.columns.get(number) else { return false };
        let (raw, dialect) = (self.cells.bytes(self.block, self.row, number), self.gate.table.dialect);
        match column.see(raw, dialect) {
            Seen::Broken => true,
            Seen::Blank { .. } | Seen::Stale => false,
            Seen::Clear(_) => !column.may_clear,
            Seen::Value(text) => {
                let mut codes = self.gate.judge_cell(column, Cell::of(&text, raw, dialect)).codes();
                codes.any(|code| self.gate.level(code, number) == Level::Stop)
            }
        }
    }

    /// Whether nothing that counts stands in the cell of a field.
    fn is_blank(&self, field: usize) -> bool {
        let Some(number) = self.gate.column_of(field) else { return true };
        let Some(column) = self.gate.columns.get(number) else { return true };
        let raw = self.cells.bytes(self.block, self.row, number);
        matches!(column.see(raw, self.gate.table.dialect), Seen::Blank { .. } | Seen::Stale)
    }

    fn blank(&self, field: usize) -> Held<'_> {
        match self.rules.defaults.get(field) {
            Some(Some(default)) => Held::Value(default.clone()),
            _ if self.rules.blank_is_unknown => Held::Unknown,
            _ => Held::Null,
        }
    }

    fn filled(&self, field: usize) -> Filled {
        // Where something is to be seen in the cell, and no word for blank is stated, the value need not be read.
        if let Some(number) = self.gate.column_of(field)
            && let Some(column) = self.gate.columns.get(number)
            && column.guard.is_none()
            && is_plain(self.cells.bytes(self.block, self.row, number), self.gate.table.dialect)
        {
            return if self.is_stopped(number) { Filled::Unknown } else { Filled::Yes };
        }
        match condition::Cells::held(self, field) {
            Held::Null => Filled::No,
            Held::Unknown => Filled::Unknown,
            // What has a stop is filled, and never forbidden: that is seen by whoever asks.
            Held::Spoilt => Filled::Unknown,
            Held::Value(_) | Held::Many(_) => Filled::Yes,
        }
    }

    /// The fields that a block lacks, if any of it is filled.
    fn missing(&self, block: &Together) -> Vec<usize> {
        let is_filled = |field: &usize| match condition::Cells::held(self, *field) {
            Held::Value(_) | Held::Many(_) => true,
            // A fault in a cell fills it, unless the fault is that nothing stands there.
            Held::Spoilt => !self.is_blank(*field),
            Held::Null | Held::Unknown => false,
        };
        if !block.fields.iter().any(is_filled) {
            return Vec::new();
        }
        block.needs.iter().copied().filter(|field| self.filled(*field) == Filled::No).collect()
    }

    /// The values of a combination, by code; nothing where one is blank or cannot be read.
    fn combined(&self, combination: &Combination) -> Option<Vec<String>> {
        let value = |field: &usize| match condition::Cells::held(self, *field) {
            Held::Value(Scalar::Text(text)) => Some(text.into_owned()),
            Held::Value(Scalar::Number(number)) => Some(number.normalize().to_string()),
            Held::Value(Scalar::Boolean(truth)) => Some(truth.to_string()),
            Held::Value(Scalar::Date(date)) => Some(date.to_string()),
            _ => None,
        };
        combination.fields.iter().map(value).collect()
    }

    /// Some fields with their texts, for a finding.
    fn shown(&self, fields: &[usize]) -> String {
        let one = |field: &usize| {
            let name = &self.gate.schema.fields.get(*field)?.name;
            let column = self.gate.column_of(*field);
            let text =
                column.map(|column| self.gate.texts(self.block, self.cells, self.row, &[column]).concat());
            let text = match text {
                Some(text) if text == MASK || !text.is_empty() => text,
                _ => "(blank)".to_owned(),
            };
            Some(format!("{name} {text}"))
        };
        fields.iter().filter_map(one).collect::<Vec<_>>().join(", ")
    }
}

impl condition::Cells for RowSeen<'_> {
    fn held(&self, field: usize) -> Held<'_> {
        let Some(number) = self.gate.column_of(field) else { return self.blank(field) };
        let Some(column) = self.gate.columns.get(number) else { return Held::Unknown };
        let raw = self.cells.bytes(self.block, self.row, number);
        let dialect = self.gate.table.dialect;
        let seen = column.see(raw, dialect);
        if matches!(seen, Seen::Broken) || self.is_stopped(number) {
            return Held::Spoilt;
        }
        // Of what a row takes over, the row above has the finding.
        if (self.judges || self.cells.takes_over(self.row, number)) && self.is_faulty(field) {
            return Held::Spoilt;
        }
        let text = match seen {
            Seen::Broken => return Held::Spoilt,
            Seen::Blank { .. } | Seen::Stale => return self.blank(field),
            Seen::Clear(_) => return if column.may_clear { Held::Null } else { Held::Spoilt },
            Seen::Value(text) => text,
        };
        let picklists = &self.gate.schema.picklists;
        if matches!(column.program, Program::Many(_)) {
            let several = column.program.several(text.trim(), picklists);
            return several
                .map_or(Held::Spoilt, |codes| Held::Many(codes.into_iter().map(Cow::Owned).collect()));
        }
        let given = Given::of(text.trim(), raw, dialect);
        column.program.scalar(given, picklists).map_or(Held::Spoilt, |value| Held::Value(owned(value)))
    }

    fn today(&self) -> Date {
        self.gate.settings.today
    }
}

/// The same, independent of the text it was read from.
fn owned(value: Scalar<'_>) -> Scalar<'static> {
    match value {
        Scalar::Text(text) => Scalar::Text(Cow::Owned(text.into_owned())),
        Scalar::Number(number) => Scalar::Number(number),
        Scalar::Ratio(over, under) => Scalar::Ratio(over, under),
        Scalar::Boolean(truth) => Scalar::Boolean(truth),
        Scalar::Date(date) => Scalar::Date(date),
        Scalar::Time(time) => Scalar::Time(time),
        Scalar::Moment(moment) => Scalar::Moment(moment),
    }
}
