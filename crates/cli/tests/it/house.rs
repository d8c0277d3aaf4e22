//! The house: no two modules import each other in a circle, no file and no function is longer than can be read.

use crate::tool::project;
use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};
use syn::spanned::Spanned;
use syn::visit::{self, Visit};

/// No file of a crate has more lines, what is for tests aside.
const LONGEST_FILE: usize = 500;
/// No function has more lines.
const LONGEST_FUNCTION: usize = 60;

type Module = Vec<String>;

/// A module as its file shows it.
#[derive(Debug, Default)]
struct Room {
    /// Paths that it names, each from the root of a crate.
    named: Vec<Module>,
    /// Functions that are too long, with their lines.
    long: Vec<(String, usize)>,
    /// The lines of the file that are not for tests alone.
    lines: usize,
}

#[test]
fn no_modules_import_each_other_in_a_circle() {
    let rooms = rooms();
    let known: BTreeSet<&Module> = rooms.keys().collect();
    let imports = |module: &Module, room: &Room| -> BTreeSet<Module> {
        let nearest = |path: &Module| {
            (1..=path.len()).rev().map(|len| path[..len].to_vec()).find(|path| known.contains(path))
        };
        room.named.iter().filter_map(nearest).filter(|other| other != module).collect()
    };
    let mut left: BTreeMap<&Module, BTreeSet<Module>> =
        rooms.iter().map(|(module, room)| (module, imports(module, room))).collect();
    // Who imports nobody that is left, or is imported by nobody that is left, is in no circle.
    loop {
        let before = left.len();
        let names: BTreeSet<Module> = left.keys().map(|module| (*module).clone()).collect();
        left.values_mut().for_each(|others| others.retain(|other| names.contains(other)));
        let imported: BTreeSet<Module> = left.values().flatten().cloned().collect();
        left.retain(|module, others| !others.is_empty() && imported.contains(*module));
        if left.len() == before {
            break;
        }
    }
    let told: Vec<_> = left
        .iter()
        .map(|(module, others)| {
            let others: Vec<_> = others.iter().map(|other| other.join("::")).collect();
            format!("{} -> {}", module.join("::"), others.join(", "))
        })
        .collect();
    assert!(told.is_empty(), "{} modules in circles:\n{}", told.len(), told.join("\n"));
}

#[test]
fn files_and_functions_can_be_read_at_a_sitting() {
    let mut told = Vec::new();
    for (module, room) in rooms() {
        let name = module.join("::");
        if room.lines > LONGEST_FILE {
            told.push(format!("{name} has {} lines", room.lines));
        }
        told.extend(
            room.long.iter().map(|(function, lines)| format!("{name}: {function} has {lines} lines")),
        );
    }
    assert!(told.is_empty(), "{} are too long:\n{}", told.len(), told.join("\n"));
}

/// Every module of every crate that stands in a file of its own and is not for tests.
fn rooms() -> BTreeMap<Module, Room> {
    let mut rooms = BTreeMap::new();
    for entry in std::fs::read_dir(project().join("crates")).unwrap() {
        let folder = entry.unwrap().path();
        let name = folder.file_name().unwrap().to_str().unwrap();
        let root = if name == "cli" { "tidy_gate".to_owned() } else { format!("tidy_gate_{name}") };
        each_file(&folder.join("src"), &mut |path| {
            let within = path.strip_prefix(folder.join("src")).unwrap().with_extension("");
            let mut module = vec![root.clone()];
            module.extend(within.iter().map(|part| part.to_str().unwrap().to_owned()));
            if matches!(module.last().map(String::as_str), Some("lib" | "main")) {
                module.pop();
            }
            if !module.last().is_some_and(|name| name.ends_with("tests")) {
                rooms.insert(module.clone(), room(&module, path));
            }
        });
    }
    rooms
}

/// Hands on each file of Rust below a folder.
pub(crate) fn each_file(folder: &Path, look: &mut dyn FnMut(&PathBuf)) {
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            each_file(&path, look);
        } else if path.extension().is_some_and(|ending| ending == "rs") {
            look(&path);
        }
    }
}

fn room(module: &Module, path: &Path) -> Room {
    let text = std::fs::read_to_string(path).unwrap();
    let file = syn::parse_file(&text).unwrap();
    let mut looker = Looker { module, room: Room::default() };
    looker.visit_file(&file);
    let for_tests: usize =
        file.items.iter().filter(|item| is_for_tests(attributes(item))).map(|item| lines(item.span())).sum();
    looker.room.lines = text.lines().count() - for_tests;
    looker.room
}

fn lines(span: proc_macro2::Span) -> usize {
    span.end().line - span.start().line + 1
}

fn attributes(item: &syn::Item) -> &[syn::Attribute] {
    match item {
        syn::Item::Mod(item) => &item.attrs,
        syn::Item::Fn(item) => &item.attrs,
        syn::Item::Use(item) => &item.attrs,
        _ => &[],
    }
}

fn is_for_tests(attributes: &[syn::Attribute]) -> bool {
    attributes.iter().any(|attribute| {
        attribute.path().is_ident("cfg")
            && matches!(&attribute.meta, syn::Meta::List(list) if list.tokens.to_string() == "test")
    })
}

/// Takes down what a file names and how long its functions are.
struct Looker<'a> {
    module: &'a Module,
    room: Room,
}

impl Looker<'_> {
    /// Notes a path, if it leads into one of our crates.
    fn name(&mut self, path: &[String]) {
        let Some(first) = path.first() else { return };
        let rest = || path.iter().skip(1).cloned();
        let mut whole = match first.as_str() {
            "crate" => vec![self.module[0].clone()],
            "self" => self.module.clone(),
            "super" => {
                let up = path.iter().take_while(|part| *part == "super").count();
                let mut whole = self.module[..self.module.len().saturating_sub(up)].to_vec();
                whole.extend(path.iter().skip(up).cloned());
                return self.room.named.push(whole);
            }
            root if root.starts_with("tidy_gate") => vec![root.to_owned()],
            // Perhaps a module below this one.
            child => self.module.iter().cloned().chain([child.to_owned()]).collect(),
        };
        whole.extend(rest());
        self.room.named.push(whole);
    }

    fn name_tree(&mut self, before: &[String], tree: &syn::UseTree) {
        let with = |name: &syn::Ident| [before, &[name.to_string()]].concat();
        match tree {
            syn::UseTree::Path(path) => self.name_tree(&with(&path.ident), &path.tree),
            syn::UseTree::Name(name) => self.name(&with(&name.ident)),
            syn::UseTree::Rename(name) => self.name(&with(&name.ident)),
            syn::UseTree::Glob(_) => self.name(before),
            syn::UseTree::Group(group) => group.items.iter().for_each(|tree| self.name_tree(before, tree)),
        }
    }

    fn measure(&mut self, name: &syn::Ident, span: proc_macro2::Span) {
        let lines = lines(span);
        if lines > LONGEST_FUNCTION {
            self.room.long.push((name.to_string(), lines));
        }
    }
}

impl<'ast> Visit<'ast> for Looker<'_> {
    fn visit_item(&mut self, item: &'ast syn::Item) {
        if !is_for_tests(attributes(item)) {
            visit::visit_item(self, item);
        }
    }

    fn visit_item_use(&mut self, item: &'ast syn::ItemUse) {
        self.name_tree(&[], &item.tree);
    }

    // Who may see an item is no import.
    fn visit_visibility(&mut self, _: &'ast syn::Visibility) {}

    fn visit_path(&mut self, path: &'ast syn::Path) {
        let parts: Vec<_> = path.segments.iter().map(|part| part.ident.to_string()).collect();
        if parts.len() > 1 {
            self.name(&parts);
        }
        visit::visit_path(self, path);
    }

    fn visit_item_fn(&mut self, item: &'ast syn::ItemFn) {
        self.measure(&item.sig.ident, item.block.span());
        visit::visit_item_fn(self, item);
    }

    fn visit_impl_item_fn(&mut self, item: &'ast syn::ImplItemFn) {
        self.measure(&item.sig.ident, item.block.span());
        visit::visit_impl_item_fn(self, item);
    }
}
