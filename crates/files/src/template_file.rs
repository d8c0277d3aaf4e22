//! A template as a workbook: the sheet to fill, a sheet that lists the fields, one with the picklists. Or as a text:
//! the headings alone.

use crate::error::Error;
use crate::output::Output;
use crate::workbook::{failed, properties};
use rust_xlsxwriter::{
    Color, DataValidation, DataValidationErrorStyle, DataValidationRule, ExcelDateTime, Format, FormatAlign,
    FormatBorder, Formula, Note, ProtectionOptions, Workbook, Worksheet, XlsxError,
};
use tidy_gate_core::finding::letter;
use tidy_gate_core::letters::harmless;
use tidy_gate_core::schema::Range;
use tidy_gate_core::template::{Holds, MARK, MEANT, Meant, Need, PROPERTIES, Template, TemplateColumn, day};

/// The endings of its forms.
pub const TEMPLATE_ENDINGS: &str = ".xlsx or .csv";
const LAST_ROW: u32 = 1_048_575;
/// The rows above the picklists and above the fields.
const LISTS_FROM: u32 = 3;

/// Writes the template into the output, in the form that its ending says.
///
/// # Errors
/// When it cannot be written.
pub fn write_template(template: &Template, with_example: bool, output: &mut Output) -> Result<(), Error> {
    let path = output.path().to_owned();
    let is_text = path.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("csv"));
    if is_text {
        return output.write(&text(template, with_example));
    }
    let written = workbook(template, with_example).and_then(|mut book| book.save_to_writer(output.writer()));
    written.map_err(|error| failed(&path, &error))
}

fn text(template: &Template, with_example: bool) -> Vec<u8> {
    let mut writer =
        csv::WriterBuilder::new().terminator(csv::Terminator::CRLF).from_writer(b"\xEF\xBB\xBF".to_vec());
    // Writing to memory cannot fail.
    let _ = writer.write_record(template.columns.iter().map(|column| harmless(&column.heading).into_owned()));
    for row in &template.rows {
        let cells = template.columns.iter().zip(row).map(|(column, value)| shown(template, column, value));
        let _ = writer.write_record(cells.map(|cell| harmless(&cell).into_owned()));
    }
    if with_example {
        // By the technical names above it a check knows the example again.
        let _ =
            writer.write_record(template.columns.iter().map(|column| harmless(&column.name).into_owned()));
        let _ = writer.write_record(
            template
                .columns
                .iter()
                .map(|column| harmless(column.example.as_deref().unwrap_or_default()).into_owned()),
        );
    }
    writer.into_inner().unwrap_or_default()
}

fn workbook(template: &Template, with_example: bool) -> Result<Workbook, XlsxError> {
    let mut book = Workbook::new();
    let properties = properties()?
        .set_title(&template.label)
        .set_custom_property(PROPERTIES[0], template.record.as_str())
        .set_custom_property(PROPERTIES[1], template.version.as_str());
    let properties = match template.meant.as_ref().and_then(Meant::as_property) {
        Some(meant) => properties.set_custom_property(MEANT, meant.as_str()),
        None => properties,
    };
    book.set_properties(&properties);
    let names = Names::new(&template.label);
    let sheet = book.add_worksheet();
    sheet.set_name(&names.records)?;
    records(template, with_example, &names, sheet)?;
    let sheet = book.add_worksheet();
    sheet.set_name(names.fields)?;
    fields(template, sheet)?;
    if !template.lists.is_empty() {
        let sheet = book.add_worksheet();
        sheet.set_name(names.lists)?;
        lists(template, sheet)?;
    }
    Ok(book)
}

/// The names of the sheets.
struct Names {
    records: String,
    fields: &'static str,
    lists: &'static str,
}

impl Names {
    fn new(label: &str) -> Self {
        let plain: String = label.chars().filter(|c| !r"[]:*?/\'".contains(*c) && !c.is_control()).collect();
        let short: String = plain.trim().chars().take(31).collect();
        let is_taken = ["fields", "picklists", "history", ""].contains(&short.to_lowercase().as_str());
        Self {
            records: if is_taken { "Records".to_owned() } else { short },
            fields: "Fields",
            lists: "Picklists",
        }
    }
}

fn heading_format(need: Need) -> Format {
    let format = Format::new()
        .set_bold()
        .set_text_wrap()
        .set_align(FormatAlign::VerticalCenter)
        .set_border_bottom(FormatBorder::Thin)
        .set_num_format("@");
    match need {
        Need::Required => format.set_background_color(Color::RGB(0x1F_4E_5F)).set_font_color(Color::White),
        Need::Advised => format.set_background_color(Color::RGB(0xA9_CC_D3)).set_font_color(Color::Black),
        Need::Free => format.set_background_color(Color::RGB(0xE8_EC_EE)).set_font_color(Color::Black),
    }
}

fn records(
    template: &Template,
    with_example: bool,
    names: &Names,
    sheet: &mut Worksheet,
) -> Result<(), XlsxError> {
    sheet.set_freeze_panes(1, 0)?;
    sheet.set_landscape().set_print_fit_to_pages(1, 0);
    sheet.set_row_height(0, 32)?;
    for (number, column) in (0_u16..).zip(&template.columns) {
        sheet.set_column_width(number, width(template, column))?;
        let format = cell_format(&column.holds);
        let format = if template.rows.is_empty() || column.is_fixed { format } else { format.set_unlocked() };
        sheet.set_column_format(number, &format)?;
        for (row, cells) in (1_u32..).zip(&template.rows) {
            let value = cells.get(usize::from(number)).unwrap_or(&None);
            let text = shown(template, column, value);
            let of_cell = if column.is_fixed {
                format
                    .clone()
                    .set_font_color(Color::RGB(0x5A_64_68))
                    .set_background_color(Color::RGB(0xF1_F4_F5))
            } else {
                format.clone()
            };
            match text.as_str() {
                "" => drop(sheet.write_blank(row, number, &of_cell)?),
                text => write_value(sheet, (row, number), &column.holds, text, &of_cell)?,
            }
        }
        sheet.write_string_with_format(0, number, &column.heading, &heading_format(column.need))?;
        // Notes grow with their text: what is cut off helps nobody.
        let lines: usize = column.note.lines().map(|line| 1 + line.chars().count() / 34).sum();
        let height = u32::try_from(30 + 16 * lines).unwrap_or(200);
        let note = Note::new(&column.note).add_author_prefix(false).set_width(240).set_height(height);
        sheet.insert_note(0, number, &note)?;
        if let Some(watch) = validation(template, column, names)? {
            sheet.add_data_validation(1, number, LAST_ROW, number, &watch)?;
        }
        if let Some(example) = column.example.as_ref().filter(|_| with_example) {
            let format = cell_format(&column.holds).set_italic().set_font_color(Color::RGB(0x5A_64_68));
            write_value(sheet, (1, number), &column.holds, example, &format)?;
        }
    }
    if !template.rows.is_empty() {
        // The keys stay; all else may be worked with.
        sheet.protect_with_options(&ProtectionOptions {
            format_cells: true,
            format_columns: true,
            format_rows: true,
            sort: true,
            use_autofilter: true,
            ..ProtectionOptions::default()
        });
    }
    Ok(())
}

/// A value as people see it: the label of a code, yes and no.
fn shown(template: &Template, column: &TemplateColumn, value: &Option<String>) -> String {
    let Some(value) = value else { return String::new() };
    match &column.holds {
        Holds::List(list, _) => {
            let offered =
                template.lists.get(*list).and_then(|list| list.1.iter().find(|one| one.1 == *value));
            offered.map_or_else(|| value.clone(), |one| one.0.clone())
        }
        Holds::Boolean if value == "true" => "Yes".to_owned(),
        Holds::Boolean if value == "false" => "No".to_owned(),
        _ => value.clone(),
    }
}

/// The format of a column's cells: what must stay as it is typed is text.
fn cell_format(holds: &Holds) -> Format {
    let format = Format::new();
    match holds {
        Holds::Integer(_) => format.set_num_format("0"),
        Holds::Decimal(_, after) => match after {
            Some(0) => format.set_num_format("0"),
            Some(after) => format.set_num_format(format!("0.{}", "#".repeat(*after as usize))),
            None => format,
        },
        Holds::Date(_, form) => format.set_num_format(form),
        Holds::Text { .. } | Holds::List(..) | Holds::Boolean | Holds::Free => format.set_num_format("@"),
    }
}

#[expect(clippy::cast_precision_loss, reason = "a few characters")]
fn width(template: &Template, column: &TemplateColumn) -> f64 {
    let longest = match &column.holds {
        Holds::List(list, _) => {
            let values = template.lists.get(*list).map(|list| list.1.as_slice()).unwrap_or_default();
            values.iter().map(|value| value.0.chars().count()).max().unwrap_or(0)
        }
        Holds::Date(_, form) => form.len() + 1,
        Holds::Text { length: (_, Some(max)) } => (*max as usize).min(30),
        _ => 8,
    };
    let example = column.example.as_ref().map_or(0, |example| example.chars().count());
    let heading = column.heading.chars().count();
    (longest.max(example).max(heading).clamp(8, 36) + 3) as f64
}

/// What a spreadsheet program watches over.
fn validation(
    template: &Template,
    column: &TemplateColumn,
    names: &Names,
) -> Result<Option<DataValidation>, XlsxError> {
    let [kind, _, limits] = &column.words;
    let expected = if limits.is_empty() { kind.clone() } else { format!("{kind}: {limits}") };
    let expected: String = expected.chars().take(220).collect();
    let watch = DataValidation::new().ignore_blank(true);
    let watch = match &column.holds {
        Holds::List(list, is_open) => {
            let values = template.lists.get(*list).map_or(0, |list| list.1.len());
            let at = letter(2 * list);
            let last = u64::from(LISTS_FROM) + values as u64;
            let formula = format!("='{}'!${at}${}:${at}${last}", names.lists, LISTS_FROM + 1);
            let watch = watch.allow_list_formula(Formula::new(formula));
            match is_open {
                true => watch.set_error_style(DataValidationErrorStyle::Warning),
                false => watch,
            }
        }
        Holds::Boolean => watch.allow_list_strings(&["Yes", "No"])?,
        Holds::Integer(range) => match number_rule(range) {
            Some(rule) => watch.allow_decimal_number(rule),
            None => return Ok(None),
        },
        Holds::Decimal(range, _) => match number_rule(range) {
            Some(rule) => watch.allow_decimal_number(rule),
            None => return Ok(None),
        },
        Holds::Date(range, _) => watch.allow_date_formula(date_rule(range)),
        Holds::Text { length: (min, max) } => match (min, max) {
            (None, None) => return Ok(None),
            (Some(min), Some(max)) => watch.allow_text_length(DataValidationRule::Between(*min, *max)),
            (Some(min), None) => watch.allow_text_length(DataValidationRule::GreaterThanOrEqualTo(*min)),
            (None, Some(max)) => watch.allow_text_length(DataValidationRule::LessThanOrEqualTo(*max)),
        },
        Holds::Free => return Ok(None),
    };
    let title: String = column.heading.chars().take(32).collect();
    Ok(Some(watch.set_error_title(title)?.set_error_message(format!("Expected: {expected}"))?))
}

fn number_rule(range: &Range<String>) -> Option<DataValidationRule<f64>> {
    let end = |end: &Option<String>| end.as_ref().and_then(|end| end.parse::<f64>().ok());
    match (end(&range.min), end(&range.max)) {
        (Some(min), Some(max)) => Some(DataValidationRule::Between(min, max)),
        (Some(min), None) => Some(DataValidationRule::GreaterThanOrEqualTo(min)),
        (None, Some(max)) => Some(DataValidationRule::LessThanOrEqualTo(max)),
        (None, None) => None,
    }
}

/// Any day that spreadsheets know, or those of the range; "today" is the day on which somebody types.
fn date_rule(range: &Range<String>) -> DataValidationRule<Formula> {
    let end = |end: &Option<String>| match end.as_deref() {
        Some("today") => Some(Formula::new("TODAY()")),
        // No spreadsheet knows days before 1900.
        Some(bound) => day(bound).map(|(year, month, day)| match year {
            0..1900 => Formula::new("1"),
            _ => Formula::new(format!("DATE({year},{month},{day})")),
        }),
        None => None,
    };
    match (end(&range.min), end(&range.max)) {
        (Some(min), Some(max)) => DataValidationRule::Between(min, max),
        (None, Some(max)) => DataValidationRule::LessThanOrEqualTo(max),
        (Some(min), None) => DataValidationRule::GreaterThanOrEqualTo(min),
        (None, None) => DataValidationRule::GreaterThanOrEqualTo(Formula::new("1")),
    }
}

/// A value as the kind of cell that somebody would type.
fn write_value(
    sheet: &mut Worksheet,
    (row, number): (u32, u16),
    holds: &Holds,
    value: &str,
    format: &Format,
) -> Result<(), XlsxError> {
    match (holds, day(value), value.parse::<f64>()) {
        (Holds::Integer(_) | Holds::Decimal(..), _, Ok(number_of)) => {
            sheet.write_number_with_format(row, number, number_of, format)?;
        }
        (Holds::Date(..), Some((year, month, day)), _) if year >= 1900 => {
            let date = ExcelDateTime::from_ymd(year, month, day)?;
            sheet.write_datetime_with_format(row, number, &date, format)?;
        }
        _ => {
            sheet.write_string_with_format(row, number, value, format)?;
        }
    }
    Ok(())
}

/// The first row of the template's own sheets: by it a check knows them.
fn mark(template: &Template, title: &str, sheet: &mut Worksheet) -> Result<(), XlsxError> {
    let faint = Format::new().set_font_color(Color::RGB(0x8A_94_98)).set_num_format("@");
    for (column, text) in (0_u16..).zip([MARK, template.record.as_str(), template.version.as_str()]) {
        sheet.write_string_with_format(0, column, text, &faint)?;
    }
    let title_format = Format::new().set_bold().set_font_size(13);
    sheet.write_string_with_format(1, 0, title, &title_format)?;
    Ok(())
}

#[expect(clippy::cast_precision_loss, reason = "a few characters")]
fn fields(template: &Template, sheet: &mut Worksheet) -> Result<(), XlsxError> {
    let version =
        if template.version.is_empty() { String::new() } else { format!(", version {}", template.version) };
    mark(template, &format!("{}{version}: what each column may hold", template.label), sheet)?;
    sheet.set_landscape().set_print_fit_to_pages(1, 0);
    let head = Format::new().set_bold().set_border_bottom(FormatBorder::Thin);
    let cell = Format::new().set_text_wrap().set_align(FormatAlign::Top).set_num_format("@");
    let examples = template.columns.iter().filter_map(|column| column.example.as_deref());
    let longest = examples.map(|example| example.chars().count()).max().unwrap_or(0);
    let widths = [24.0, 24.0, 20.0, 18.0, 40.0, 44.0, (longest as f64 + 3.0).clamp(16.0, 40.0)];
    let titles = ["Heading", "Field", "Kind", "Needed", "Limits", "Help", "Example"];
    for (column, (title, width)) in (0_u16..).zip(titles.into_iter().zip(widths)) {
        sheet.set_column_width(column, width)?;
        sheet.write_string_with_format(2, column, title, &head)?;
    }
    sheet.set_freeze_panes(3, 0)?;
    for (row, column) in (3_u32..).zip(&template.columns) {
        let [kind, needed, limits] = &column.words;
        let example = column.example.as_deref().unwrap_or_default();
        let cells = [&column.name, kind, needed, limits, &column.help].map(String::as_str);
        // Programs that do not fit rows to their text would draw one over another.
        let lines = |text: &str, width: f64| (text.chars().count() as f64 / (width - 2.0)).ceil().max(1.0);
        let most = [
            (limits.as_str(), widths[4]),
            (column.help.as_str(), widths[5]),
            (column.heading.as_str(), widths[0]),
            (example, widths[6]),
        ]
        .map(|(text, width)| lines(text, width))
        .into_iter()
        .fold(1.0, f64::max);
        sheet.set_row_height(row, 16.0 * most)?;
        sheet.write_string_with_format(row, 0, &column.heading, &heading_format(column.need))?;
        for (number, text) in (1_u16..).zip(cells.into_iter().chain([example])) {
            sheet.write_string_with_format(row, number, text, &cell)?;
        }
    }
    Ok(())
}

fn lists(template: &Template, sheet: &mut Worksheet) -> Result<(), XlsxError> {
    mark(template, "The values to choose from, each with its code", sheet)?;
    sheet.set_landscape().set_print_fit_to_pages(1, 0);
    let head = Format::new().set_bold().set_border_bottom(FormatBorder::Thin).set_num_format("@");
    let cell = Format::new().set_num_format("@");
    sheet.set_freeze_panes(LISTS_FROM, 0)?;
    for (number, (name, values)) in (0_u16..).zip(&template.lists) {
        let (labels, codes) = (2 * number, 2 * number + 1);
        sheet.set_column_width(labels, 28)?;
        sheet.set_column_width(codes, 14)?;
        sheet.write_string_with_format(LISTS_FROM - 1, labels, name, &head)?;
        let is_of_keys = template.keys.contains(&usize::from(number));
        let second = format!("{} of {name}", if is_of_keys { "name" } else { "code" });
        sheet.write_string_with_format(LISTS_FROM - 1, codes, second, &head)?;
        for (row, (label, code)) in (LISTS_FROM..).zip(values) {
            sheet.write_string_with_format(row, labels, label, &cell)?;
            sheet.write_string_with_format(row, codes, code, &cell)?;
        }
    }
    Ok(())
}
