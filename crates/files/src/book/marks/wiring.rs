//! What ties the parts of a workbook together (ECMA-376 part 2, and part 1, 18.2): which sheets there are and in what
//! order, what each part refers to, and what the parts are.

use super::elements::{
    Element, attribute, changed, children, escaped, piece, prefix, retagged, root, tag, value,
};

/// The relations of a part.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Relations {
    xml: String,
    /// Name, kind and target of each.
    all: Vec<[String; 3]>,
    added: Vec<[String; 3]>,
}

const NO_RELATIONS: &str = "<?xml version=\"1.0\" encoding=\"UTF-8\" standalone=\"yes\"?>\n<Relationships \
xmlns=\"http://schemas.openxmlformats.org/package/2006/relationships\"></Relationships>";

impl Relations {
    /// Reads them; a part need not have any.
    pub(super) fn read(xml: Option<String>) -> Result<Self, String> {
        let xml = xml.unwrap_or_else(|| NO_RELATIONS.to_owned());
        let (_, within) = root(&xml)?;
        let one = |element: &Element| {
            let start = tag(piece(&xml, element.whole.clone()))?;
            Some(["Id", "Type", "Target"].map(|name| value(&start, name).unwrap_or_default()))
        };
        let all = within.iter().filter_map(one).collect();
        Ok(Self { all, added: Vec::new(), xml })
    }

    /// The target of the first relation of this kind, by the last word of its name.
    pub(super) fn target(&self, kind: &str) -> Option<&str> {
        let found = self.all.iter().find(|one| one[1].rsplit('/').next() == Some(kind));
        found.map(|one| one[2].as_str())
    }

    /// The target of the relation of this name.
    pub(super) fn target_of(&self, name: &str) -> Option<&str> {
        self.all.iter().find(|one| one[0] == name).map(|one| one[2].as_str())
    }

    /// Adds a relation to the part of this name; gives its own.
    pub(super) fn add(&mut self, base: &str, kind: &str, part: &str) -> String {
        let is_free = |name: &str| !self.all.iter().any(|one| one[0] == name);
        let name = (1..).map(|number| format!("rIdTidy{number}")).find(|name| is_free(name));
        let one = [name.unwrap_or_default(), format!("{base}/{kind}"), format!("/{part}")];
        self.all.push(one.clone());
        self.added.push(one.clone());
        let [name, ..] = one;
        name
    }

    /// The part with what was added.
    pub(super) fn written(&self) -> Result<String, String> {
        let (whole, _) = root(&self.xml)?;
        let p = prefix(piece(&self.xml, whole.whole.clone()));
        let added: String = self
            .added
            .iter()
            .map(|[id, kind, target]| {
                let target = escaped(target);
                format!("<{p}Relationship Id=\"{id}\" Type=\"{kind}\" Target=\"{target}\"/>")
            })
            .collect();
        Ok(within_root(&self.xml, &whole, &added))
    }
}

/// The relations of a workbook begin so where it has none of its own; the strict form has another.
pub(super) const OFFICE: &str = "http://schemas.openxmlformats.org/officeDocument/2006/relationships";

/// What all relations of a workbook begin with.
pub(super) fn base_of(relations: &Relations) -> String {
    let kinds = relations.all.iter().filter_map(|one| one[1].rsplit_once('/'));
    let base = kinds.filter(|kind| kind.1 == "worksheet").map(|kind| kind.0.to_owned()).next();
    base.unwrap_or_else(|| OFFICE.to_owned())
}

/// A text with something more at the end of its root.
fn within_root(xml: &str, whole: &Element, added: &str) -> String {
    match &whole.inner {
        Some(inner) => changed(xml, vec![(inner.end..inner.end, added.to_owned())]),
        None => {
            let text = piece(xml, whole.whole.clone());
            let name = tag(text).map(|tag| tag.name().as_ref().to_owned()).unwrap_or_default();
            let open = text.strip_suffix("/>").unwrap_or(text);
            changed(xml, vec![(whole.whole.clone(), format!("{open}>{added}</{name}>"))])
        }
    }
}

/// What the parts are, with those that were added: names and kinds.
pub(super) fn content_types(xml: &str, added: &[(&str, &str)]) -> Result<String, String> {
    let (whole, within) = root(xml)?;
    let p = prefix(piece(xml, whole.whole.clone()));
    let is_known = |name: &str, wanted: &str| {
        within.iter().any(|element| {
            let known = attribute(piece(xml, element.whole.clone()), name);
            known.is_some_and(|known| known.eq_ignore_ascii_case(wanted))
        })
    };
    let mut more = String::new();
    if !is_known("Extension", "vml") {
        let kind = "application/vnd.openxmlformats-officedocument.vmlDrawing";
        more.push_str(&format!("<{p}Default Extension=\"vml\" ContentType=\"{kind}\"/>"));
    }
    for (part, kind) in added.iter().filter(|(part, _)| !is_known("PartName", &format!("/{part}"))) {
        more.push_str(&format!("<{p}Override PartName=\"/{part}\" ContentType=\"{kind}\"/>"));
    }
    Ok(within_root(xml, &whole, &more))
}

/// The sheets of a workbook, while one is put in front.
pub(super) struct Book {
    xml: String,
    prefix: String,
    within: Vec<Element>,
    sheets: Vec<Element>,
}

/// The filter over the sheet that was marked.
pub(super) struct Filter<'a> {
    /// The number of the sheet before one came in front.
    pub(super) sheet: usize,
    /// Its name.
    pub(super) name: &'a str,
    /// What it covers, such as `A1:K20`.
    pub(super) range: &'a str,
}

impl Book {
    pub(super) fn read(xml: String) -> Result<Self, String> {
        let (whole, within) = root(&xml)?;
        let sheets = within.iter().find(|element| element.name == "sheets");
        let sheets = sheets.map_or(Ok(Vec::new()), |sheets| children(&xml, sheets))?;
        Ok(Self { prefix: prefix(piece(&xml, whole.whole)), within, sheets, xml })
    }

    /// The relation of each sheet.
    pub(super) fn sheet_relations(&self) -> Vec<String> {
        self.sheets.iter().map(|sheet| self.relation(sheet).unwrap_or_default()).collect()
    }

    /// The relations of the sheets that hold cells.
    pub(super) fn worksheets(&self, relations: &Relations) -> Vec<String> {
        let is_one =
            |name: &String| relations.all.iter().any(|one| one[0] == *name && one[1].ends_with("/worksheet"));
        self.sheet_relations().into_iter().filter(is_one).collect()
    }

    /// The name of the sheet of this relation.
    pub(super) fn name_of(&self, relation: &str) -> Option<String> {
        let sheet = self.sheets.iter().find(|sheet| self.relation(sheet).as_deref() == Some(relation))?;
        attribute(piece(&self.xml, sheet.whole.clone()), "name")
    }

    fn relation(&self, sheet: &Element) -> Option<String> {
        let start = tag(piece(&self.xml, sheet.whole.clone()))?;
        let mut attributes = start.attributes().flatten();
        let is_id =
            |key: quick_xml::name::QName<'_>| key.prefix().is_some() && key.local_name().as_ref() == "id";
        attributes.find(|attribute| is_id(attribute.key)).map(|attribute| attribute.value.to_string())
    }

    /// What the name of a relation is written under, such as `r:id`.
    fn relation_key(&self) -> String {
        let of = |sheet: &Element| {
            let start = tag(piece(&self.xml, sheet.whole.clone()))?;
            let mut keys = start.attributes().flatten().map(|attribute| attribute.key.as_ref().to_owned());
            keys.find(|key| key.ends_with(":id"))
        };
        self.sheets.iter().find_map(of).unwrap_or_else(|| "r:id".to_owned())
    }

    /// A name that no sheet has.
    pub(super) fn free_name(&self, wanted: &str) -> String {
        let taken: Vec<String> = self
            .sheets
            .iter()
            .filter_map(|sheet| attribute(piece(&self.xml, sheet.whole.clone()), "name"))
            .map(|name| name.to_lowercase())
            .collect();
        let names = (1..).map(|number| match number {
            1 => wanted.to_owned(),
            number => format!("{wanted} ({number})"),
        });
        names.into_iter().find(|name| !taken.contains(&name.to_lowercase())).unwrap_or_default()
    }

    /// The number of the sheet that is shown first.
    pub(super) fn active(&self) -> usize {
        let views = self.within.iter().find(|element| element.name == "bookViews");
        let view = views.and_then(|views| children(&self.xml, views).ok()?.into_iter().next());
        let active = view.and_then(|view| attribute(piece(&self.xml, view.whole), "activeTab"));
        active.and_then(|active| active.parse().ok()).unwrap_or(0)
    }

    /// The part with a sheet in front, where one is to come there: its name and its relation. It is shown first where
    /// `is_shown`.
    pub(super) fn with_front(
        &self,
        front: Option<(&str, &str)>,
        filter: Option<&Filter<'_>>,
        is_shown: bool,
    ) -> Result<String, String> {
        let mut changes = Vec::new();
        let moved = usize::from(front.is_some());
        if let Some((name, relation)) = front {
            let ids = self.sheets.iter().filter_map(|sheet| {
                attribute(piece(&self.xml, sheet.whole.clone()), "sheetId")?.parse::<u32>().ok()
            });
            let id = ids.max().unwrap_or(0).saturating_add(1);
            let (p, key, name) = (&self.prefix, self.relation_key(), escaped(name));
            let sheet = format!("<{p}sheet name=\"{name}\" sheetId=\"{id}\" {key}=\"{relation}\"/>");
            let at = self.sheets.first().map(|sheet| sheet.whole.start).ok_or("it has no sheets")?;
            changes.push((at..at, sheet));
        }
        self.show(moved, is_shown, &mut changes)?;
        self.names(moved, filter, &mut changes)?;
        Ok(changed(&self.xml, changes))
    }

    fn show(
        &self,
        moved: usize,
        is_shown: bool,
        changes: &mut Vec<(std::ops::Range<usize>, String)>,
    ) -> Result<(), String> {
        let Some(views) = self.within.iter().find(|element| element.name == "bookViews") else {
            return Ok(());
        };
        for view in children(&self.xml, views)? {
            let text = piece(&self.xml, view.whole.clone());
            let number = attribute(text, "activeTab").and_then(|active| active.parse::<usize>().ok());
            let active = if is_shown { 0 } else { number.unwrap_or(0) + moved };
            let set = [("activeTab", Some(active.to_string())), ("firstSheet", None)];
            let set: Vec<(&str, Option<&str>)> =
                set.iter().map(|(name, value)| (*name, value.as_deref())).collect();
            changes.push((view.whole.clone(), retagged(text, &set)));
        }
        Ok(())
    }

    /// Names that belong to one sheet follow it; the filter has one of its own.
    fn names(
        &self,
        moved: usize,
        filter: Option<&Filter<'_>>,
        changes: &mut Vec<(std::ops::Range<usize>, String)>,
    ) -> Result<(), String> {
        let p = &self.prefix;
        const FILTER: &str = "_xlnm._FilterDatabase";
        let own = filter.map(|filter| {
            let (first, last) = filter.range.split_once(':').unwrap_or((filter.range, filter.range));
            let range =
                format!("'{}'!{}:{}", filter.name.replace('\'', "''"), absolute(first), absolute(last));
            let sheet = filter.sheet + moved;
            let name = format!("name=\"{FILTER}\" localSheetId=\"{sheet}\" hidden=\"1\"");
            format!("<{p}definedName {name}>{}</{p}definedName>", escaped(&range))
        });
        let names = self.within.iter().find(|element| element.name == "definedNames");
        let Some(names) = names else {
            let Some(own) = own else { return Ok(()) };
            let before = ["sheets", "functionGroups", "externalReferences"];
            let at = self.within.iter().rev().find(|element| before.contains(&element.name.as_str()));
            let at = at.map(|element| element.whole.end).ok_or("it has no sheets")?;
            changes.push((at..at, format!("<{p}definedNames>{own}</{p}definedNames>")));
            return Ok(());
        };
        let mut texts = Vec::new();
        for name in children(&self.xml, names)? {
            let text = piece(&self.xml, name.whole.clone());
            let sheet = attribute(text, "localSheetId").and_then(|sheet| sheet.parse::<usize>().ok());
            let is_filter = attribute(text, "name").as_deref() == Some(FILTER);
            if is_filter && filter.is_some_and(|filter| sheet == Some(filter.sheet)) {
                continue;
            }
            texts.push(match sheet {
                Some(sheet) if moved > 0 => {
                    retagged(text, &[("localSheetId", Some(&(sheet + moved).to_string()))])
                }
                _ => text.to_owned(),
            });
        }
        texts.extend(own);
        changes.push((names.whole.clone(), format!("<{p}definedNames>{}</{p}definedNames>", texts.concat())));
        Ok(())
    }
}

/// A place such as `B12` as `$B$12`.
fn absolute(place: &str) -> String {
    let letters = place.trim_end_matches(|c: char| c.is_ascii_digit());
    format!("${letters}${}", place.get(letters.len()..).unwrap_or_default())
}
