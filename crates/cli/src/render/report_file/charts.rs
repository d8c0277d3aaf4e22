//! The charts of the page, as SVG without a size of its own: colours are those of the page.

use plotters::prelude::*;
use plotters::style::text_anchor::{HPos, Pos, VPos};
use tidy_gate_core::numerals::grouped;
use tidy_gate_core::overview::Stretch;

/// What the style of the page takes for stops, warnings, notes, texts and lines.
const STOP: RGBColor = RGBColor(0xB3, 0x26, 0x1E);
const WARN: RGBColor = RGBColor(0x8F, 0x5B, 0x00);
const NOTE: RGBColor = RGBColor(0x3F, 0x68, 0x8C);
const BAR: RGBColor = RGBColor(0x2F, 0x6F, 0x73);
const INK: RGBColor = RGBColor(0x22, 0x2A, 0x30);
const LINE: RGBColor = RGBColor(0xD5, 0xDB, 0xDF);

type Drawn = Result<(), DrawingAreaErrorKind<std::io::Error>>;

/// The findings about one field.
#[derive(Debug, Clone)]
pub(super) struct Bar {
    pub(super) name: String,
    pub(super) stops: u64,
    pub(super) warns: u64,
    pub(super) notes: u64,
}

impl Bar {
    pub(super) fn all(&self) -> u64 {
        self.stops + self.warns + self.notes
    }
}

/// Draws on a picture of this size; `label` says what it shows. One that is only beside a text has none.
fn picture(
    size: (u32, u32),
    label: &str,
    draw: impl FnOnce(&DrawingArea<SVGBackend<'_>, plotters::coord::Shift>) -> Drawn,
) -> String {
    let mut svg = String::new();
    {
        let area = SVGBackend::with_string(&mut svg, size).into_drawing_area();
        // Drawing into memory cannot fail.
        let _ = draw(&area);
        let _ = area.present();
    }
    let role = match label {
        "" => "<svg aria-hidden=\"true\" ".to_owned(),
        label => format!("<svg role=\"img\" aria-label=\"{label}\" "),
    };
    svg.replacen("<svg ", &role, 1)
}

fn text(size: u32, at: HPos) -> TextStyle<'static> {
    let style: TextStyle<'_> = ("sans-serif", size).into_font().color(&INK);
    style.pos(Pos::new(at, VPos::Center))
}

/// The findings by field, most first: a bar each, stops before warnings before notes.
pub(super) fn by_field(bars: &[Bar]) -> String {
    const LEFT: i32 = 230;
    const WIDTH: i32 = 640;
    const ROW: i32 = 30;
    let height = ROW * i32::try_from(bars.len()).unwrap_or(1) + 8;
    let most = bars.iter().map(Bar::all).max().unwrap_or(1).max(1);
    // A finding among thousands is still to be seen.
    let wide = |count: u64| -> i32 {
        let room = u64::try_from(WIDTH - LEFT - 90).unwrap_or(1);
        let wide = (count * room).checked_div(most).unwrap_or(0);
        i32::try_from(if count > 0 { wide.max(2) } else { 0 }).unwrap_or(0)
    };
    let size = (u32::try_from(WIDTH).unwrap_or(0), u32::try_from(height).unwrap_or(0));
    picture(size, "Findings by field; the table below has the numbers", |area| {
        for (number, bar) in (0_i32..).zip(bars) {
            let middle = 4 + ROW * number + ROW / 2;
            area.draw(&Text::new(bar.name.clone(), (LEFT - 10, middle), text(19, HPos::Right)))?;
            let mut from = LEFT;
            for (count, colour) in [(bar.stops, STOP), (bar.warns, WARN), (bar.notes, NOTE)] {
                let to = from + wide(count);
                if to > from {
                    area.draw(&Rectangle::new([(from, middle - 9), (to, middle + 9)], colour.filled()))?;
                }
                from = to;
            }
            area.draw(&Text::new(grouped(bar.all()), (from + 8, middle), text(19, HPos::Left)))?;
        }
        Ok(())
    })
}

/// The held rows along the file: a bar for each stretch of rows.
pub(super) fn along(stretches: &[Stretch]) -> String {
    let most = stretches.iter().map(|stretch| stretch.held).max().unwrap_or(0).max(1);
    let (Some(first), Some(last)) = (stretches.first(), stretches.last()) else { return String::new() };
    let (begin, end) = (first.first, last.last + 1);
    let label = "Held rows along the file; the table below has the numbers";
    picture((640, 260), label, |area| {
        let mut chart = ChartBuilder::on(area)
            .margin(6)
            .margin_right(24)
            .x_label_area_size(52)
            .y_label_area_size(64)
            .build_cartesian_2d(begin..end, 0..most + most.div_ceil(10))?;
        let whole = |count: &u64| grouped(*count);
        chart
            .configure_mesh()
            .disable_x_mesh()
            .light_line_style(TRANSPARENT)
            .bold_line_style(LINE)
            .axis_style(LINE)
            .label_style(("sans-serif", 19).into_font().color(&INK))
            .x_desc("row")
            .x_labels(6)
            .y_labels(usize::try_from(most).unwrap_or(5).clamp(1, 5))
            .x_label_formatter(&whole)
            .y_label_formatter(&whole)
            .draw()?;
        chart.draw_series(stretches.iter().filter(|stretch| stretch.held > 0).map(|stretch| {
            let mut bar =
                Rectangle::new([(stretch.first, 0), (stretch.last + 1, stretch.held)], STOP.filled());
            let gap = u32::from(stretches.len() < 100);
            bar.set_margin(0, 0, 0, gap);
            bar
        }))?;
        Ok(())
    })
}

/// How values are spread, as small bars beside the text that says it.
pub(super) fn small(counts: &[u64]) -> String {
    const WIDTH: i32 = 132;
    const HEIGHT: i32 = 26;
    let most = counts.iter().copied().max().unwrap_or(0).max(1);
    let step = WIDTH / i32::try_from(counts.len().max(1)).unwrap_or(1);
    picture((132, 26), "", |area| {
        area.draw(&Rectangle::new([(0, HEIGHT - 1), (WIDTH, HEIGHT)], LINE.filled()))?;
        for (number, count) in (0_i32..).zip(counts) {
            let high = i32::try_from((count * 24).checked_div(most).unwrap_or(0)).unwrap_or(0);
            let high = if *count > 0 { high.max(2) } else { 0 };
            let (from, to) = (number * step, (number + 1) * step - 2);
            area.draw(&Rectangle::new([(from, HEIGHT - 1 - high), (to, HEIGHT - 1)], BAR.filled()))?;
        }
        Ok(())
    })
}
