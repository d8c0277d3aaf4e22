//! The styles of a marked workbook (ECMA-376 part 1, 18.8): those of its cells once more with a fill that tells the
//! level, and a few for what is written beside them. A fill of ours is taken off before a new one is put on.

use super::elements::{Element, attribute, changed, children, piece, prefix, retagged, root, siblings};
use std::collections::HashMap;
use tidy_gate_core::catalogue::Level;

/// The fill of a cell that holds its row, and of one to be looked at: told apart by how dark they are too.
const STOP: &str = "FFF3B08C";
const WARN: &str = "FFD5E7F5";
/// A workbook has no more cell styles.
const MOST: usize = 65_430;
/// Nor do those beside them find room beyond this.
const MOST_OF_ALL: usize = 65_490;

/// What is written beside the sender's cells.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum Kind {
    /// A text that wraps.
    Text,
    /// The title of the sheet in front.
    Title,
    /// The verdict, where the gate is open, and where it is shut.
    Open,
    /// See there.
    Shut,
    /// The heading of a part of it.
    Heading,
    /// What few will read.
    Faint,
    /// The heading of a column of marks.
    ColumnHeading,
    /// A reason that holds a row.
    Stop,
    /// A reason to look at a row.
    Warn,
}

/// All of them, in the order in which they are added.
const KINDS: [Kind; 9] = [
    Kind::Text,
    Kind::Title,
    Kind::Open,
    Kind::Shut,
    Kind::Heading,
    Kind::Faint,
    Kind::ColumnHeading,
    Kind::Stop,
    Kind::Warn,
];

/// What a workbook without styles has.
const NONE: &str = "<?xml version=\"1.0\" encoding=\"UTF-8\" standalone=\"yes\"?>\n<styleSheet \
xmlns=\"http://schemas.openxmlformats.org/spreadsheetml/2006/main\"><fonts count=\"1\"><font><sz val=\"11\"/><name \
val=\"Calibri\"/><family val=\"2\"/></font></fonts><fills count=\"2\"><fill><patternFill patternType=\"none\"/></fill><fill>\
<patternFill patternType=\"gray125\"/></fill></fills><borders count=\"1\"><border><left/><right/><top/><bottom/><diagonal/>\
</border></borders><cellStyleXfs count=\"1\"><xf numFmtId=\"0\" fontId=\"0\" fillId=\"0\" borderId=\"0\"/></cellStyleXfs>\
<cellXfs count=\"1\"><xf numFmtId=\"0\" fontId=\"0\" fillId=\"0\" borderId=\"0\" xfId=\"0\"/></cellXfs><cellStyles count=\"1\">\
<cellStyle name=\"Normal\" xfId=\"0\" builtinId=\"0\"/></cellStyles></styleSheet>";

/// The styles of a workbook, while marks are put on.
pub(super) struct Styles {
    xml: String,
    prefix: String,
    fonts: Element,
    fills: Element,
    formats: Element,
    /// How many fonts and fills there were.
    counts: (usize, usize),
    /// The fills that there were.
    fill_texts: Vec<String>,
    /// The cell formats, those that were added behind those that there were.
    xfs: Vec<String>,
    there: usize,
    /// Whether there was room for those of what is written beside the cells.
    has_kinds: bool,
    added_fills: Vec<String>,
    /// The style with a fill of ours, by the one without.
    filled: HashMap<(usize, Level), usize>,
    /// The style without a fill of ours, by the one with it.
    bare: HashMap<usize, usize>,
    /// How many cells got the plain style of their level, since there is room for no more styles.
    pub(super) plain: u64,
}

impl Styles {
    /// Reads them; a workbook need not have any.
    pub(super) fn read(xml: Option<String>) -> Result<Self, String> {
        let xml = xml.unwrap_or_else(|| NONE.to_owned());
        let (root, within) = root(&xml)?;
        let find = |name: &str| within.iter().find(|element| element.name == name && element.inner.is_some());
        let (Some(fonts), Some(fills), Some(formats)) = (find("fonts"), find("fills"), find("cellXfs"))
        else {
            return Self::read_without(&xml);
        };
        let texts = |of: &Element, name: &str| -> Result<Vec<String>, String> {
            let within = children(&xml, of)?.into_iter().filter(|element| element.name == name);
            Ok(within.map(|element| piece(&xml, element.whole).to_owned()).collect())
        };
        let fill_texts = texts(fills, "fill")?;
        let xfs = texts(formats, "xf")?;
        let counts = (texts(fonts, "font")?.len(), fill_texts.len());
        let mut styles = Self {
            prefix: prefix(piece(&xml, root.whole.clone())),
            fonts: fonts.clone(),
            fills: fills.clone(),
            formats: formats.clone(),
            counts,
            fill_texts,
            there: xfs.len(),
            has_kinds: false,
            xfs,
            added_fills: Vec::new(),
            filled: HashMap::new(),
            bare: HashMap::new(),
            plain: 0,
            xml,
        };
        styles.add_kinds();
        Ok(styles)
    }

    /// A part that lacks fonts, fills or formats is put aside for one that has them: its cells have no style then.
    fn read_without(xml: &str) -> Result<Self, String> {
        match xml == NONE {
            true => Err("it holds no cell formats".to_owned()),
            false => Self::read(None),
        }
    }

    /// The style of this one with the fill of a level.
    pub(super) fn filled(&mut self, base: usize, level: Level) -> usize {
        let base = if base < self.xfs.len() { base } else { 0 };
        if let Some(known) = self.filled.get(&(base, level)) {
            return *known;
        }
        if self.xfs.len() >= MOST {
            self.plain += 1;
            return self.kind(if level == Level::Stop { Kind::Stop } else { Kind::Warn });
        }
        let xf = self.xfs.get(base).cloned().unwrap_or_else(|| self.xf("numFmtId=\"0\" fontId=\"0\"", ""));
        let behind = self.fill_of(&xf).and_then(|fill| solid(fill));
        let fill = self.fill(level, behind.as_deref());
        let xf = retagged(&xf, &[("fillId", Some(&fill.to_string())), ("applyFill", Some("1"))]);
        self.xfs.push(xf);
        self.filled.insert((base, level), self.xfs.len() - 1);
        self.xfs.len() - 1
    }

    /// The style without a fill of ours, where it has one.
    pub(super) fn bare(&mut self, style: usize) -> usize {
        if let Some(known) = self.bare.get(&style) {
            return *known;
        }
        let fill = self.xfs.get(style).and_then(|xf| self.fill_of(xf));
        let is_ours = fill.and_then(|fill| solid(fill)).is_some_and(|color| {
            [STOP, WARN].iter().any(|own| color.to_ascii_uppercase().contains(&format!("RGB=\"{own}\"")))
        });
        let bare = match is_ours && style < self.there {
            true => {
                // What stood behind it is kept as the fill's other colour.
                let before = fill.and_then(|fill| behind(fill));
                let fill = match before {
                    Some(color) => self.solid_fill(&color, None),
                    None => 0,
                };
                let xf = self.xfs.get(style).cloned().unwrap_or_default();
                let xf = retagged(&xf, &[("fillId", Some(&fill.to_string()))]);
                let known = self.xfs.iter().position(|known| *known == xf);
                known.unwrap_or_else(|| {
                    self.xfs.push(xf);
                    // It is one of the workbook's own from here on.
                    self.xfs.len() - 1
                })
            }
            false => style,
        };
        self.bare.insert(style, bare);
        bare
    }

    /// The fill of a cell format.
    fn fill_of(&self, xf: &str) -> Option<&String> {
        let fill = attribute(xf, "fillId")?.parse::<usize>().ok()?;
        self.fill_texts.get(fill).or_else(|| self.added_fills.get(fill.checked_sub(self.counts.1)?))
    }

    /// Whether cells may have fills of ours.
    pub(super) fn has_ours(&self) -> bool {
        self.fill_texts.iter().any(|fill| {
            let fill = fill.to_ascii_uppercase();
            [STOP, WARN].iter().any(|own| fill.contains(own))
        })
    }

    /// The style of what is written beside the cells.
    pub(super) fn kind(&self, kind: Kind) -> usize {
        if !self.has_kinds {
            return 0;
        }
        self.there + KINDS.iter().position(|known| *known == kind).unwrap_or(0)
    }

    /// The part with all that was added.
    pub(super) fn written(&self) -> String {
        let in_part = |of: &Element, count: usize, added: &[String]| {
            let end = of.inner.clone().map_or(of.whole.end, |inner| inner.end);
            let whole = changed(piece(&self.xml, of.whole.clone()), {
                let at = end - of.whole.start;
                vec![(at..at, added.concat())]
            });
            (of.whole.clone(), retagged(&whole, &[("count", Some(&count.to_string()))]))
        };
        let fonts = self.own_fonts();
        let formats = self.xfs.get(self.there..).unwrap_or_default();
        changed(
            &self.xml,
            vec![
                in_part(&self.fonts, self.counts.0 + fonts.len(), &fonts),
                in_part(&self.fills, self.counts.1 + self.added_fills.len(), &self.added_fills),
                in_part(&self.formats, self.xfs.len(), formats),
            ],
        )
    }

    /// The fill of a level, with the colour that was there behind it.
    fn fill(&mut self, level: Level, behind: Option<&str>) -> usize {
        let color = if level == Level::Stop { STOP } else { WARN };
        self.solid_fill(&format!("rgb=\"{color}\""), behind)
    }

    fn solid_fill(&mut self, color: &str, behind: Option<&str>) -> usize {
        let (p, behind) = (&self.prefix, behind.unwrap_or("indexed=\"64\""));
        let fill = format!(
            "<{p}fill><{p}patternFill patternType=\"solid\"><{p}fgColor {color}/><{p}bgColor {behind}/>\
             </{p}patternFill></{p}fill>"
        );
        let known = self.added_fills.iter().position(|known| *known == fill);
        self.counts.1
            + known.unwrap_or_else(|| {
                self.added_fills.push(fill);
                self.added_fills.len() - 1
            })
    }

    fn xf(&self, attributes: &str, alignment: &str) -> String {
        let p = &self.prefix;
        format!(
            "<{p}xf {attributes} borderId=\"0\" xfId=\"0\" applyFont=\"1\" applyFill=\"1\" applyNumberFormat=\"1\" \
             applyAlignment=\"1\"><{p}alignment vertical=\"top\"{alignment}/></{p}xf>"
        )
    }

    /// The fonts that are added: for titles, for headings, white ones, faint ones, plain ones.
    fn own_fonts(&self) -> Vec<String> {
        let p = &self.prefix;
        let font = |bold: bool, size: u8, color: &str| {
            let bold = if bold { format!("<{p}b/>") } else { String::new() };
            format!(
                "<{p}font>{bold}<{p}sz val=\"{size}\"/><{p}color rgb=\"{color}\"/><{p}name val=\"Calibri\"/><{p}family \
                 val=\"2\"/></{p}font>"
            )
        };
        vec![
            font(true, 16, "FF1B2A31"),
            font(true, 12, "FF1B2A31"),
            font(true, 11, "FFFFFFFF"),
            font(false, 9, "FF6A7478"),
            font(false, 11, "FF1B2A31"),
        ]
    }

    fn add_kinds(&mut self) {
        self.has_kinds = self.there + KINDS.len() <= MOST_OF_ALL;
        if !self.has_kinds {
            return;
        }
        let (stop, warn) = (self.fill(Level::Stop, None), self.fill(Level::Warn, None));
        let (open, dark) =
            (self.solid_fill("rgb=\"FFCDE8D5\"", None), self.solid_fill("rgb=\"FF1F4E5F\"", None));
        let font = self.counts.0;
        for kind in KINDS {
            let wraps = " wrapText=\"1\"";
            let (font, fill, alignment) = match kind {
                Kind::Text => (font + 4, 0, wraps),
                Kind::Title => (font, 0, ""),
                Kind::Open => (font + 1, open, wraps),
                Kind::Shut => (font + 1, stop, wraps),
                Kind::Heading => (font + 1, 0, ""),
                Kind::Faint => (font + 3, 0, wraps),
                Kind::ColumnHeading => (font + 2, dark, ""),
                Kind::Stop => (font + 4, stop, ""),
                Kind::Warn => (font + 4, warn, ""),
            };
            let attributes = format!("numFmtId=\"49\" fontId=\"{font}\" fillId=\"{fill}\"");
            self.xfs.push(self.xf(&attributes, alignment));
        }
    }
}

/// The first colour of a fill that covers a cell: its attributes.
fn solid(fill: &str) -> Option<String> {
    let pattern = pattern(fill)?;
    let is_solid = attribute(&pattern, "patternType").as_deref() == Some("solid");
    color(&pattern, "fgColor").filter(|_| is_solid)
}

/// The other colour of a fill, where it says more than that there is none.
fn behind(fill: &str) -> Option<String> {
    // Programs that write colours of their own there write them for every fill.
    const WRITTEN: [&str; 2] = ["FFFFCC99", "FFCCFFFF"];
    let color = color(&pattern(fill)?, "bgColor")?;
    let says_none = color.contains("indexed=") || WRITTEN.iter().any(|written| color.contains(written));
    (!says_none).then_some(color)
}

fn pattern(fill: &str) -> Option<String> {
    let whole = siblings(fill, 0..fill.len()).ok()?;
    let within = children(fill, whole.first()?).ok()?;
    let found = within.iter().find(|element| element.name == "patternFill")?;
    Some(piece(fill, found.whole.clone()).to_owned())
}

fn color(pattern: &str, name: &str) -> Option<String> {
    let whole = siblings(pattern, 0..pattern.len()).ok()?;
    let within = children(pattern, whole.first()?).ok()?;
    let found = within.iter().find(|element| element.name == name)?;
    let tag = super::elements::tag(piece(pattern, found.whole.clone()))?;
    let attributes = tag.attributes().flatten();
    Some(
        attributes
            .map(|attribute| format!("{}=\"{}\"", attribute.key.as_ref(), attribute.value))
            .collect::<Vec<_>>()
            .join(" "),
    )
}
