//! What stands before the rows of a sheet and behind them (ECMA-376 part 1, 18.3.1.99): its views, the widths of its
//! columns, its filter, what may be entered, its notes. All in the order that the standard sets.

use super::elements::{Element, attribute, changed, children, escaped, piece, retagged, root, value};
use super::front::list_range;
use super::model::{DropDown, Limit, Marking};
use super::notes::place_of;
use tidy_gate_core::finding::letter;

/// The elements of a sheet in their order.
const ORDER: [&str; 39] = [
    "sheetPr",
    "dimension",
    "sheetViews",
    "sheetFormatPr",
    "cols",
    "sheetData",
    "sheetCalcPr",
    "sheetProtection",
    "protectedRanges",
    "scenarios",
    "autoFilter",
    "sortState",
    "dataConsolidate",
    "customSheetViews",
    "mergeCells",
    "phoneticPr",
    "conditionalFormatting",
    "dataValidations",
    "hyperlinks",
    "printOptions",
    "pageMargins",
    "pageSetup",
    "headerFooter",
    "rowBreaks",
    "colBreaks",
    "customProperties",
    "cellWatches",
    "ignoredErrors",
    "smartTags",
    "drawing",
    "legacyDrawing",
    "legacyDrawingHF",
    "picture",
    "oleObjects",
    "controls",
    "webPublishItems",
    "tableParts",
    "extLst",
    "",
];

/// What the frame of a sheet says that its cells need.
#[derive(Debug, Default)]
pub(super) struct Columns {
    /// The styles of columns, from 1: first, last, style.
    pub(super) styles: Vec<(usize, usize, usize)>,
}

impl Columns {
    /// The style of a column, from 0.
    pub(super) fn style(&self, column: usize) -> usize {
        let is_it = |(first, last, _): &&(usize, usize, usize)| (*first..=*last).contains(&(column + 1));
        self.styles.iter().find(is_it).map_or(0, |found| found.2)
    }
}

/// What stands before the rows, with the marks' columns and without the sheet's being shown first; `head` ends with the
/// first tag of the rows, which is closed here to be read.
pub(super) fn head(head: &str, marking: &Marking<'_>, is_shown: bool) -> Result<(String, Columns), String> {
    // The rows begin here: for reading, they and the sheet end at once.
    let (whole_name, data_name) = names(head)?;
    let closed = format!("{head}</{data_name}></{whole_name}>");
    let (_, within) = root(&closed)?;
    let p = prefix_of(&whole_name);
    let mut changes = Vec::new();
    let mut columns = Columns::default();
    let find = |name: &str| within.iter().find(|element| element.name == name);
    if let (Some(views), false) = (find("sheetViews"), is_shown) {
        for view in children(&closed, views)? {
            let text = piece(&closed, view.whole.clone());
            changes.push((view.whole.clone(), retagged(text, &[("tabSelected", None)])));
        }
    }
    if let Some(cols) = find("cols") {
        for col in children(&closed, cols)? {
            let start = super::elements::tag(piece(&closed, col.whole)).ok_or("a column that is none")?;
            let number = |name: &str| value(&start, name).and_then(|text| text.parse::<usize>().ok());
            if let (Some(first), Some(last)) = (number("min"), number("max")) {
                columns.styles.push((first, last, number("style").unwrap_or(0)));
            }
        }
    }
    if let Some(first) = marking.own {
        if let Some(dimension) = find("dimension") {
            let text = piece(&closed, dimension.whole.clone());
            let range = attribute(text, "ref").unwrap_or_default();
            let (from, to) = range.split_once(':').unwrap_or((&range, &range));
            if let Some((row, column)) = place_of(to) {
                let to = format!("{}{}", letter(column.max(first + 1)), row.max(marking.last_row));
                changes.push((
                    dimension.whole.clone(),
                    retagged(text, &[("ref", Some(&format!("{from}:{to}")))]),
                ));
            }
        }
        let own = [(first + 1, 16.0), (first + 2, 60.0)];
        let made: String = own
            .iter()
            .map(|(at, width)| {
                format!("<{p}col min=\"{at}\" max=\"{at}\" width=\"{width}\" customWidth=\"1\"/>")
            })
            .collect();
        match find("cols") {
            Some(cols) => {
                let parts = around(&closed, cols, (first + 1, first + 2), &made)?;
                changes.push((cols.whole.clone(), format!("<{p}cols>{parts}</{p}cols>")));
            }
            None => {
                let data = find("sheetData").map_or(head.len(), |data| data.whole.start);
                changes.push((data..data, format!("<{p}cols>{made}</{p}cols>")));
            }
        }
    }
    let made = changed(&closed, changes);
    let end = format!("</{data_name}></{whole_name}>");
    Ok((made.strip_suffix(&end).unwrap_or(&made).to_owned(), columns))
}

/// The names of the sheet's root and of what holds its rows, with their prefixes.
fn names(head: &str) -> Result<(String, String), String> {
    let last = head.rfind('<').and_then(|at| super::elements::tag(head.get(at..)?));
    let data = last.ok_or("its rows have no beginning")?.name().as_ref().to_owned();
    let whole = match data.rsplit_once(':') {
        Some((prefix, _)) => format!("{prefix}:worksheet"),
        None => "worksheet".to_owned(),
    };
    Ok((whole, data))
}

fn prefix_of(name: &str) -> String {
    name.rsplit_once(':').map(|parts| format!("{}:", parts.0)).unwrap_or_default()
}

/// Columns with those of the marks among them: what spans those is parted.
fn around(xml: &str, cols: &Element, (first, last): (usize, usize), made: &str) -> Result<String, String> {
    let mut parts: Vec<(usize, String)> = vec![(first, made.to_owned())];
    for col in children(xml, cols)? {
        let text = piece(xml, col.whole);
        let number = |name: &str| attribute(text, name).and_then(|text| text.parse::<usize>().ok());
        let (Some(min), Some(max)) = (number("min"), number("max")) else { continue };
        for (from, to) in [(min, max.min(first.saturating_sub(1))), (min.max(last + 1), max)] {
            if from <= to {
                let (low, high) = (from.to_string(), to.to_string());
                parts.push((from, retagged(text, &[("min", Some(&low)), ("max", Some(&high))])));
            }
        }
    }
    parts.sort_by_key(|part| part.0);
    parts.dedup();
    Ok(parts.into_iter().map(|part| part.1).collect())
}

/// What stands behind the rows, as it was made.
pub(super) struct Tail {
    /// The text, from the end of the rows on.
    pub(super) xml: String,
    /// What the filter covers, if it is one of ours.
    pub(super) filter: Option<String>,
    /// What could not be done.
    pub(super) limits: Vec<Limit>,
}

/// What stands behind the rows, with the filter, the drop-downs and the notes.
pub(super) fn tail(
    tail: &str,
    head: &str,
    marking: &Marking<'_>,
    front: &str,
    drawing: &str,
) -> Result<Tail, String> {
    let (whole_name, data_name) = names(head)?;
    let p = prefix_of(&whole_name);
    // The root as it was opened, for the prefixes that it declares.
    let open = format!("{}</{data_name}>", opening(head, &whole_name));
    let xml = format!("{open}{}", tail.strip_prefix(&format!("</{data_name}>")).unwrap_or(tail));
    let (_, within) = root(&xml)?;
    let mut made = Tail { xml: String::new(), filter: None, limits: Vec::new() };
    let mut changes = Vec::new();
    let find = |name: &str| within.iter().find(|element| element.name == name);
    let place = |name: &str| place_for(&within, name);
    if find("sheetProtection").is_some() {
        made.limits.push(Limit::Protected);
    }
    if let Some(range) = filter_range(&xml, &within, marking, &mut made.limits) {
        let element = match find("autoFilter") {
            Some(own) => retagged(piece(&xml, own.whole.clone()), &[("ref", Some(&range))]),
            None => format!("<{p}autoFilter ref=\"{range}\"/>"),
        };
        let at = find("autoFilter").map_or_else(|| place("autoFilter"), |own| own.whole.clone());
        changes.push((at, element));
        made.filter = Some(range);
    }
    let (lists, left) = validations(&xml, find("dataValidations"), find("extLst"), marking, front, &p)?;
    made.limits.extend((left > 0).then_some(Limit::ListsLeftOut(left)));
    if let Some(lists) = lists {
        let own = find("dataValidations");
        changes.push((own.map_or_else(|| place("dataValidations"), |own| own.whole.clone()), lists));
    }
    if find("legacyDrawing").is_none() {
        let key = "xmlns:r=\"http://schemas.openxmlformats.org/officeDocument/2006/relationships\"";
        let key = match marking.is_strict {
            true => "xmlns:r=\"http://purl.oclc.org/ooxml/officeDocument/relationships\"",
            false => key,
        };
        changes.push((place("legacyDrawing"), format!("<{p}legacyDrawing {key} r:id=\"{drawing}\"/>")));
    }
    let xml = changed(&xml, changes);
    made.xml = format!("</{data_name}>{}", xml.strip_prefix(&open).unwrap_or(&xml));
    Ok(made)
}

/// The root's first tag, and the beginning of its rows.
fn opening(head: &str, whole: &str) -> String {
    let start = head.find(&format!("<{whole}")).unwrap_or(0);
    let end = head.get(start..).and_then(|rest| rest.find('>')).map_or(head.len(), |end| start + end + 1);
    let data = head.rfind('<').unwrap_or(head.len());
    format!("{}{}", piece(head, start..end), piece(head, data..head.len()))
}

/// Where an element comes that is not there.
fn place_for(within: &[Element], name: &str) -> std::ops::Range<usize> {
    let rank = |name: &str| ORDER.iter().position(|known| *known == name).unwrap_or(ORDER.len());
    let before = within.iter().rev().find(|element| rank(&element.name) < rank(name));
    let at = before.map_or(0, |element| element.whole.end);
    at..at
}

/// What the filter is to cover: all columns of the table, those of the marks among them. A sheet has one filter, and a
/// table on it has its own.
fn filter_range(
    xml: &str,
    within: &[Element],
    marking: &Marking<'_>,
    limits: &mut Vec<Limit>,
) -> Option<String> {
    let (own, heading) = (marking.own?, marking.heading_row?);
    let (first, last) = (letter(own), letter(own + 1));
    let end = marking.last_row.max(heading);
    if let Some(filter) = within.iter().find(|element| element.name == "autoFilter") {
        let range = attribute(piece(xml, filter.whole.clone()), "ref").unwrap_or_default();
        let (from, to) = range.split_once(':')?;
        let (top, bottom) = (place_of(from)?, place_of(to)?);
        if top.0 == heading {
            return Some(format!("{from}:{}{}", letter(bottom.1.max(own + 1)), bottom.0.max(end)));
        }
        limits.push(Limit::OwnFilter);
        return None;
    }
    let has_tables = within.iter().any(|element| element.name == "tableParts" && element.inner.is_some());
    Some(if has_tables { format!("{first}{heading}:{last}{end}") } else { format!("A{heading}:{last}{end}") })
}

/// The drop-downs with those of picklists that had none; and how many found no room.
fn validations(
    xml: &str,
    own: Option<&Element>,
    extensions: Option<&Element>,
    marking: &Marking<'_>,
    front: &str,
    p: &str,
) -> Result<(Option<String>, u64), String> {
    let there = own.map_or(Ok(Vec::new()), |own| children(xml, own))?;
    let is_ours =
        |element: &Element| marking.had.is_some() && piece(xml, element.whole.clone()).contains("Tidy Gate");
    let mut kept: Vec<&str> = Vec::new();
    let mut ranges: Vec<String> = Vec::new();
    for element in there.iter().filter(|element| !is_ours(element)) {
        let text = piece(xml, element.whole.clone());
        ranges.extend(attribute(text, "sqref"));
        kept.push(text);
    }
    // Later programs keep theirs apart.
    let apart = extensions.map(|element| piece(xml, element.whole.clone())).unwrap_or_default();
    for (at, _) in apart.match_indices("sqref>") {
        let range = piece(apart, at + "sqref>".len()..apart.len());
        ranges.extend(range.split('<').next().map(str::to_owned));
    }
    let covers = |column: usize| ranges.iter().any(|ranges| is_in(ranges, column, marking));
    let wanted: Vec<(usize, &DropDown)> =
        marking.lists.iter().enumerate().filter(|(_, list)| !covers(list.column)).collect();
    let room = 65_534_usize.saturating_sub(kept.len());
    let left = wanted.len().saturating_sub(room) as u64;
    let mut made = kept.concat();
    made.extend(wanted.iter().take(room).map(|(number, list)| drop_down((*number, list), marking, front, p)));
    let count = kept.len() + wanted.len().min(room);
    let is_same = wanted.is_empty() && kept.len() == there.len();
    if is_same {
        return Ok((None, left));
    }
    let whole = match (own, count) {
        (_, 0) => String::new(),
        (Some(own), count) => {
            let text = piece(xml, own.whole.clone());
            let open = text.split_inclusive('>').next().unwrap_or_default();
            let open = open.strip_suffix("/>").map_or_else(|| open.to_owned(), |open| format!("{open}>"));
            let whole = format!("{open}{made}</{p}dataValidations>");
            retagged(&whole, &[("count", Some(&count.to_string()))])
        }
        (None, count) => {
            format!("<{p}dataValidations count=\"{count}\">{made}</{p}dataValidations>")
        }
    };
    Ok((Some(whole), left))
}

/// Whether one of these ranges covers cells of the table in a column.
fn is_in(ranges: &str, column: usize, marking: &Marking<'_>) -> bool {
    ranges.split_whitespace().any(|range| {
        let (from, to) = range.split_once(':').unwrap_or((range, range));
        let (Some((top, left)), Some((bottom, right))) = (place_of(from), place_of(to)) else { return false };
        (left..=right).contains(&column) && top <= marking.last_row && bottom >= marking.first_row
    })
}

/// The drop-down of a column, which draws on a list beside the lines of the sheet in front.
fn drop_down((number, list): (usize, &DropDown), marking: &Marking<'_>, front: &str, p: &str) -> String {
    let column = letter(list.column);
    let warns = if list.is_open { " errorStyle=\"warning\"" } else { "" };
    let last = marking.last_row.max(marking.first_row);
    let range = format!("{column}{}:{column}{last}", marking.first_row);
    let of = escaped(&list_range(front, number, list.values.len()));
    format!(
        "<{p}dataValidation type=\"list\"{warns} allowBlank=\"1\" showErrorMessage=\"1\" sqref=\"{range}\">\
         <{p}formula1>{of}</{p}formula1></{p}dataValidation>"
    )
}
