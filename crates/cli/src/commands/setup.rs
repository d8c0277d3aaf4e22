//! What a command works with: the record schema, the plan, the day; read once, each fault told.

use super::stated::Stated;
use crate::args::{CheckArgs, LayoutArgs, ModeArg};
use crate::failure::Failure;
use crate::render::faults;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use tidy_gate_core::gate::Settings;
use tidy_gate_core::mode::Mode;
use tidy_gate_core::plan::{Plan, PlanFile, PlanText, scoped};
use tidy_gate_core::schema::RecordSchema;
use tidy_gate_files::{Error, ListFiles, Outputs, ReadOptions, held_file};

/// The record schema and the plan, and the files that they were read from.
#[derive(Debug)]
pub(crate) struct Setup {
    pub(crate) schema: RecordSchema,
    pub(crate) record: PathBuf,
    /// The text of the record schema.
    pub(crate) record_text: String,
    pub(crate) lists: Vec<PathBuf>,
    pub(crate) plan: Plan,
    /// The plan's file, and its text.
    pub(crate) plan_file: Option<(PathBuf, String)>,
}

impl Setup {
    /// Reads what is named; the plan names its record schema where none is.
    pub(crate) fn read(record: Option<&Path>, plan: Option<&Path>, file: &Path) -> anyhow::Result<Self> {
        let plan_file =
            plan.map(|path| anyhow::Ok((path.to_owned(), text_of(path, "a plan")?))).transpose()?;
        let text = plan_file.as_ref().map(|(path, text)| (path, text, PlanText::read(text)));
        let record = match (record, &text) {
            (Some(record), _) => record.to_owned(),
            (None, Some((path, _, plan))) => match plan.record() {
                Some(record) => path.parent().map_or_else(|| record.into(), |folder| folder.join(record)),
                None => return Err(no_record_in(path)),
            },
            (None, None) => return Err(nothing_named(file).into()),
        };
        let record_text = text_of(&record, "a record schema")?;
        let (schema, lists) = schema_of(&record, &record_text)?;
        let plan = match text {
            None => Plan::default(),
            Some((path, text, plan)) => plan
                .against(&schema)
                .map_err(|found| Failure::Faults(faults::draw(&path.display().to_string(), text, &found)))?,
        };
        let mut plan = plan;
        let folder = plan_file.as_ref().and_then(|(path, _)| path.parent()).unwrap_or(Path::new(""));
        super::like::take_over(&mut plan, folder, &schema)?;
        Ok(Self { schema, record, record_text, lists, plan, plan_file })
    }

    /// Takes over how a sheet says that it is to be checked which holds records that are there, where neither a plan nor an
    /// option says so.
    pub(crate) fn follow_sheet(&mut self, file: &Path, mode: Option<ModeArg>) -> anyhow::Result<()> {
        if self.plan_file.is_some() || mode.is_some() {
            return Ok(());
        }
        let Some(meant) = tidy_gate_files::meant_by(file) else { return Ok(()) };
        let text = scoped(Some(&meant.mode), &meant.fields, meant.condition.as_deref());
        let what = format!("{}, which says how it is to be checked", file.display());
        let plan = PlanText::read(&text).against(&self.schema);
        self.plan = plan.map_err(|found| Failure::Faults(faults::draw(&what, &text, &found)))?;
        Ok(())
    }

    /// No output may overwrite what was read.
    pub(crate) fn guard(&self, outputs: &mut Outputs) {
        outputs.guard(&self.record, "the record schema");
        self.lists.iter().for_each(|list| outputs.guard(list, "a picklist of the record schema"));
        self.plan_file.iter().for_each(|(path, _)| outputs.guard(path, "the plan"));
    }

    /// The settings of a run: what is stated for it, over the plan.
    pub(crate) fn settings(&self, mode: Option<ModeArg>, stated: &Stated) -> Result<Settings, Failure> {
        let mode = mode.map(Mode::from).or(self.plan.mode).unwrap_or_default();
        if self.schema.key.is_empty() && mode != Mode::Add {
            let message = format!(
                "{} names no key, so records cannot be found again to update them",
                self.record.display()
            );
            return Err(Failure::usage(
                message,
                "name the `key` in the record schema, or use --mode add".to_owned(),
            ));
        }
        let dates = if stated.dates.is_empty() { &self.plan.dates } else { &stated.dates };
        Ok(Settings {
            mode,
            dates: dates.clone(),
            today: stated.today,
            plan: self.plan.clone(),
            references: BTreeMap::new(),
            cycles: None,
            existing: None,
        })
    }
}

/// How a file is laid out, as far as it is stated: in options, or else in the plan, which says nothing of a file of held
/// rows; and its sheet.
pub(crate) fn layout_of<'a>(
    file: &Path,
    layout: &'a LayoutArgs,
    plan: &'a Plan,
    schema: &RecordSchema,
) -> Result<(ReadOptions, Option<&'a str>), Error> {
    let held = match plan.file == PlanFile::default() {
        true => None,
        false => held_file(file, &plan.widened(schema.clone()))?,
    };
    let Some(held) = held else {
        return Ok((layout.options(&plan.file), layout.sheet(&plan.file)));
    };
    let rest = PlanFile { short_rows_are_blank: plan.file.short_rows_are_blank, ..PlanFile::default() };
    let options = layout.options(&rest);
    let delimiter = options.delimiter.or(held.delimiter);
    Ok((ReadOptions { delimiter, ..options }, layout.sheet.as_deref()))
}

/// How many threads to use.
pub(super) fn threads(args: &CheckArgs) -> usize {
    let processors = || std::thread::available_parallelism().map_or(1, usize::from);
    args.threads.map_or_else(processors, usize::from)
}

/// The text of a file that people write for the tool.
pub(crate) fn text_of(path: &Path, what: &str) -> anyhow::Result<String> {
    let read = |source| Error::Read { path: path.to_owned(), source };
    if path.is_dir() {
        return Err(Error::Folder { path: path.to_owned() }.into());
    }
    let bytes = tidy_gate_files::read_small(path).map_err(read)?;
    let Ok(source) = String::from_utf8(bytes) else {
        let message = format!("{} is not {what}: it is no text in UTF-8", path.display());
        return Err(Failure::usage(message, None).into());
    };
    Ok(source.strip_prefix('\u{FEFF}').unwrap_or(&source).replace("\r\n", "\n"))
}

/// Reads a record schema; gives the files of its picklists too.
pub(crate) fn read_schema(path: &Path) -> anyhow::Result<(RecordSchema, Vec<PathBuf>)> {
    schema_of(path, &text_of(path, "a record schema")?)
}

/// The record schema of a text that was read from there.
fn schema_of(path: &Path, source: &str) -> anyhow::Result<(RecordSchema, Vec<PathBuf>)> {
    let mut lists = ListFiles::beside(path);
    let schema = RecordSchema::read(source, &mut lists)
        .map_err(|found| Failure::Faults(faults::draw(&path.display().to_string(), source, &found)))?;
    Ok((schema, lists.read))
}

fn no_record_in(plan: &Path) -> anyhow::Error {
    let message = format!("{} names no record schema, and none was named beside it", plan.display());
    Failure::usage(message, "add `record = \"NAME.record.toml\"` to the plan, or use --record".to_owned())
        .into()
}

/// Says which record schemas and plans stand beside the file.
pub(crate) fn nothing_named(file: &Path) -> Failure {
    let folder = file.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let entries = std::fs::read_dir(folder).into_iter().flatten().flatten().map(|entry| entry.path());
    let option = |path: &Path| {
        let name = path.to_string_lossy();
        let option = [(".record.toml", "--record"), (".plan.toml", "--plan")];
        option.into_iter().find(|(ending, _)| name.ends_with(ending)).map(|(_, option)| option)
    };
    let mut found: Vec<_> = entries
        .filter_map(|path| Some(format!("{} {}", option(&path)?, path.display()).replace(" ./", " ")))
        .collect();
    found.sort();
    let help = match found.as_slice() {
        [] => "--record takes a NAME.record.toml; `tidy-gate demo` writes one to look at".to_owned(),
        found => format!("beside the file there is: {}", found.join(", ")),
    };
    Failure::usage("no record schema and no plan was named", help)
}

/// The path of a file as it is named from beside another.
pub(crate) fn relative(from: &Path, to: &Path) -> String {
    let folder = from.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let (Ok(folder), Ok(target)) = (folder.canonicalize(), to.canonicalize()) else {
        return to.display().to_string();
    };
    let shared = folder.components().zip(target.components()).take_while(|(a, b)| a == b).count();
    let up = folder.components().count() - shared;
    // Files far from each other are named in full.
    if up > 3 {
        return target.display().to_string();
    }
    let mut path: PathBuf = std::iter::repeat_n("..", up).collect();
    path.extend(target.components().skip(shared));
    path.to_string_lossy().replace('\\', "/")
}
