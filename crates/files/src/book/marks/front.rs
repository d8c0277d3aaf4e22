//! The sheet in front of a marked workbook: lines of two columns, and the lists of drop-downs beside them, hidden.

use super::elements::escaped;
use super::model::{DropDown, Marking};
use super::styles::{Kind, Styles};
use crate::book::marked::FRONT_MARK;
use crate::book::patch::in_xml;
use tidy_gate_core::finding::letter;

/// A line of the sheet in front.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FrontLine {
    /// How it is shown.
    pub look: FrontLook,
    /// What stands at its left, and beside it. A title, a verdict and a heading have the first alone.
    pub cells: [String; 2],
}

/// How a line of the sheet in front is shown.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum FrontLook {
    /// The title.
    Title,
    /// The verdict of an open gate.
    Open,
    /// That of a shut one.
    Shut,
    /// What begins a part.
    Heading,
    /// A name and what is said of it.
    Line,
    /// The same of what holds rows.
    Stop,
    /// The same of what is to be looked at.
    Warn,
}

/// How wide the two columns are, in characters.
const WIDTHS: [usize; 2] = [28, 100];
/// The first column of the lists, from 0.
const LISTS_FROM: usize = 26;

/// The first cell of the lists' column of this number, and the last, as a reference within the workbook.
pub(super) fn list_range(sheet: &str, number: usize, count: usize) -> String {
    let column = letter(LISTS_FROM + number);
    format!("'{}'!${column}$1:${column}${}", sheet.replace('\'', "''"), count.max(1))
}

/// The part of the sheet.
pub(super) fn written(
    lines: &[FrontLine],
    marking: &Marking<'_>,
    styles: &Styles,
    is_selected: bool,
) -> String {
    let lists = marking.lists;
    let place = marking.own.map(|first| (first + 1).to_string()).unwrap_or_default();
    let width = marking.width.to_string();
    let mut rows = Rows { xml: String::new(), styles, lists, row: 0 };
    let faint = Kind::Faint;
    rows.row(
        &[(0, FRONT_MARK, faint), (1, marking.form, faint), (2, &place, faint), (3, &width, faint)],
        12.0,
    );
    for line in lines {
        let [left, right] = line.cells.each_ref().map(String::as_str);
        let (kinds, size) = match line.look {
            FrontLook::Title => ([Kind::Title, Kind::Title], 24.0),
            FrontLook::Open => ([Kind::Open, Kind::Open], 18.0),
            FrontLook::Shut => ([Kind::Shut, Kind::Shut], 18.0),
            FrontLook::Heading => ([Kind::Heading, Kind::Heading], 20.0),
            FrontLook::Line => ([Kind::Text, Kind::Text], 15.5),
            FrontLook::Stop => ([Kind::Stop, Kind::Text], 15.5),
            FrontLook::Warn => ([Kind::Warn, Kind::Text], 15.5),
        };
        let [first, second] = kinds;
        let alone = WIDTHS[0] + WIDTHS[1];
        let wrapped = match (right.is_empty(), line.look) {
            (true, FrontLook::Open | FrontLook::Shut) => lines_of(left, alone),
            (true, _) => 1,
            _ => lines_of(right, WIDTHS[1]).max(lines_of(left, WIDTHS[0])),
        };
        #[expect(clippy::cast_precision_loss, reason = "a few lines")]
        let height = (size * wrapped as f64).min(400.0);
        rows.row(&[(0, left, first), (1, right, second)], height);
    }
    rows.rest_of_lists();
    let merged = merged(lines);
    let selected = if is_selected { " tabSelected=\"1\"" } else { "" };
    let hidden = match lists.is_empty() {
        true => String::new(),
        false => {
            let (first, last) = (LISTS_FROM + 1, LISTS_FROM + lists.len());
            format!("<col min=\"{first}\" max=\"{last}\" width=\"12\" hidden=\"1\" customWidth=\"1\"/>")
        }
    };
    format!(
        "<?xml version=\"1.0\" encoding=\"UTF-8\" standalone=\"yes\"?>\n<worksheet \
         xmlns=\"http://schemas.openxmlformats.org/spreadsheetml/2006/main\"><sheetPr><tabColor rgb=\"FF1F4E5F\"/>\
         <pageSetUpPr fitToPage=\"1\"/></sheetPr><sheetViews><sheetView showGridLines=\"0\"{selected} \
         workbookViewId=\"0\"/></sheetViews><sheetFormatPr defaultRowHeight=\"15\"/><cols><col min=\"1\" max=\"1\" \
         width=\"{}\" customWidth=\"1\"/><col min=\"2\" max=\"2\" width=\"{}\" customWidth=\"1\"/>{hidden}</cols>\
         <sheetData>{}</sheetData>{merged}<pageMargins left=\"0.5\" right=\"0.5\" top=\"0.6\" bottom=\"0.6\" \
         header=\"0.3\" footer=\"0.3\"/><pageSetup orientation=\"landscape\" fitToHeight=\"0\"/></worksheet>",
        WIDTHS[0], WIDTHS[1], rows.xml
    )
}

/// Rows on their way, with what the lists have in them.
struct Rows<'a> {
    xml: String,
    styles: &'a Styles,
    lists: &'a [DropDown],
    row: usize,
}

impl Rows<'_> {
    fn row(&mut self, cells: &[(usize, &str, Kind)], height: f64) {
        self.row += 1;
        self.xml.push_str(&format!("<row r=\"{}\" ht=\"{height}\" customHeight=\"1\">", self.row));
        for (column, text, kind) in cells {
            self.cell(*column, text, *kind);
        }
        self.list_cells();
        self.xml.push_str("</row>");
    }

    fn cell(&mut self, column: usize, text: &str, kind: Kind) {
        let (place, style) = (format!("{}{}", letter(column), self.row), self.styles.kind(kind));
        if text.is_empty() {
            self.xml.push_str(&format!("<c r=\"{place}\" s=\"{style}\"/>"));
        } else {
            let text = escaped(&in_xml(text));
            self.xml.push_str(&format!(
                "<c r=\"{place}\" s=\"{style}\" t=\"inlineStr\"><is><t xml:space=\"preserve\">{text}</t></is></c>"
            ));
        }
    }

    fn list_cells(&mut self) {
        let (row, lists) = (self.row, self.lists);
        for (number, list) in lists.iter().enumerate() {
            if let Some(value) = list.values.get(row - 1) {
                self.cell(LISTS_FROM + number, value, Kind::Faint);
            }
        }
    }

    /// Lists longer than the lines go on below them.
    fn rest_of_lists(&mut self) {
        let longest = self.lists.iter().map(|list| list.values.len()).max().unwrap_or(0);
        while self.row < longest {
            self.row += 1;
            self.xml.push_str(&format!("<row r=\"{}\">", self.row));
            self.list_cells();
            self.xml.push_str("</row>");
        }
    }
}

/// How many lines a text takes in a column of this width.
fn lines_of(text: &str, width: usize) -> usize {
    text.split('\n').map(|line| line.chars().count().div_ceil(width).max(1)).sum()
}

/// The verdict stands across both columns.
fn merged(lines: &[FrontLine]) -> String {
    let is_wide = |line: &FrontLine| matches!(line.look, FrontLook::Open | FrontLook::Shut);
    let merged: Vec<String> = (2..)
        .zip(lines)
        .filter(|(_, line)| is_wide(line))
        .map(|(row, _): (usize, _)| format!("<mergeCell ref=\"A{row}:B{row}\"/>"))
        .collect();
    match merged.is_empty() {
        true => String::new(),
        false => format!("<mergeCells count=\"{}\">{}</mergeCells>", merged.len(), merged.concat()),
    }
}
