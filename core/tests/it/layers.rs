//! The house: which folder may look into which, in the core and in the server. Read off the code's own paths
//! (`use`, types, calls), tests apart. A planted breach is found. The core's two crates are one house.

use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};

use petgraph::algo::tarjan_scc;
use petgraph::graphmap::DiGraphMap;
use quote::ToTokens;
use syn::visit::{self, Visit};

/// The folders of the core, each above those it may use.
const CORE: &[(&str, &[&str])] = &[
    ("refusal", &[]),
    ("texts", &[]),
    ("units", &["refusal"]),
    ("uncertainty", &["units"]),
    ("materials", &["units"]),
    ("verdict", &["uncertainty", "units"]),
    ("measure", &["verdict", "uncertainty", "units", "refusal"]),
    ("digital_gauge", &["units"]),
    ("stock", &["uncertainty", "units", "refusal"]),
    ("choose", &["stock", "verdict", "uncertainty", "units"]),
    (
        "allocate",
        &["choose", "stock", "verdict", "uncertainty", "units"],
    ),
    (
        "calculators",
        &[
            "choose",
            "measure",
            "materials",
            "verdict",
            "uncertainty",
            "units",
        ],
    ),
    (
        "sheet",
        &[
            "calculators",
            "choose",
            "measure",
            "materials",
            "verdict",
            "units",
            "refusal",
            "texts",
        ],
    ),
    ("drawing", &["sheet", "measure", "units"]),
    ("job/standing", &["refusal"]),
    ("job/undo", &["choose"]),
    ("job/identity", &["job/undo", "identify", "units"]),
    (
        "job/card",
        &[
            "job/standing",
            "job/undo",
            "job/intake",
            "job/check",
            "refusal",
            "texts",
        ],
    ),
    (
        "job/hand_over",
        &["job/build", "job/check", "job/standing", "refusal"],
    ),
    (
        "job/allowed",
        &["job/card", "job/hand_over", "job/standing"],
    ),
    (
        "job/act",
        &[
            "job/undo",
            "job/card",
            "job/check",
            "job/build",
            "job/parts",
            "job/identity",
            "job/donors",
            "choose",
        ],
    ),
    ("plan", &[]),
    ("job", &[]),
    (
        "job/build",
        &[
            "job/undo",
            "plan",
            "sheet",
            "calculators",
            "measure",
            "units",
            "refusal",
            "texts",
        ],
    ),
    ("job/intake", &["sheet", "refusal", "texts"]),
    (
        "shop",
        &[
            "calculators",
            "sheet",
            "stock",
            "measure",
            "uncertainty",
            "units",
            "refusal",
            "texts",
        ],
    ),
    (
        "identify",
        &[
            "shop",
            "sheet",
            "verdict",
            "uncertainty",
            "units",
            "refusal",
            "texts",
        ],
    ),
    (
        "job/parts",
        &[
            "job/undo",
            "shop",
            "job/intake",
            "job/build",
            "sheet",
            "verdict",
            "uncertainty",
            "units",
            "refusal",
            "texts",
        ],
    ),
    (
        "job/check",
        &[
            "job/undo",
            "job/standing",
            "shop",
            "plan",
            "calculators",
            "sheet",
            "allocate",
            "choose",
            "stock",
            "measure",
            "materials",
            "verdict",
            "uncertainty",
            "units",
            "refusal",
            "texts",
        ],
    ),
    (
        "job/donors",
        &[
            "job/undo",
            "job/check",
            "job/parts",
            "sheet",
            "allocate",
            "choose",
            "verdict",
            "uncertainty",
            "units",
            "refusal",
            "texts",
        ],
    ),
];

/// The floors of the server; `http` stands beside them, above the database whose errors it tells.
const SERVER: &[(&str, &[&str])] = &[
    ("processor", &[]),
    ("db", &[]),
    ("http", &["db", "processor"]),
    ("archive_file", &["db", "processor"]),
    ("queries", &["db", "http", "processor"]),
    ("views", &["queries", "db", "http", "processor"]),
    (
        "commands",
        &[
            "views",
            "queries",
            "archive_file",
            "db",
            "http",
            "processor",
        ],
    ),
    (
        "api",
        &["commands", "views", "queries", "db", "http", "processor"],
    ),
    ("load", &["commands", "views", "queries", "db", "http"]),
    (
        "backup",
        &[
            "archive_file",
            "views",
            "queries",
            "db",
            "config",
            "processor",
        ],
    ),
];

/// Libraries that only these folders may name.
const ONLY: &[(&str, &[&str])] = &[
    ("rocket", &["api", "http", "lib", "cli", "config"]),
    ("rocket_ws", &["api"]),
    ("sqlx", &["db", "lib", "config"]),
];

/// The core's crates, by the names that code has for them.
const CORE_CRATES: &[&str] = &["anvil_arithmetic", "anvil_rules"];

/// The server's, by the same.
const SERVER_CRATES: &[&str] = &["anvil_database"];

/// A module by its path, such as `job/check/rules`.
type Module = String;

/// What each module of a crate names: others of the crate, and libraries.
#[derive(Default)]
struct House {
    /// Crates whose modules are the house's own.
    crates: &'static [&'static str],
    modules: BTreeSet<Module>,
    uses: BTreeSet<(Module, Module)>,
    libraries: BTreeSet<(Module, String)>,
}

struct Reader<'h> {
    house: &'h mut House,
    here: Vec<String>,
    /// Paths inside this file are told from a folder's own, for a file is not its folder.
    is_folder: bool,
}

impl Reader<'_> {
    fn path(&mut self, segments: &[String]) {
        let module = self.here.join("/");
        let base = match segments.first().map(String::as_str) {
            Some("crate") => segments[1..].to_vec(),
            Some(library) if self.house.crates.contains(&library) => segments[1..].to_vec(),
            Some("super" | "self") => {
                let mut base = self.here.clone();
                let mut rest = segments;
                if rest[0] == "self" {
                    rest = &rest[1..];
                } else if !self.is_folder {
                    base.pop();
                    rest = &rest[1..];
                }
                while rest.first().is_some_and(|s| s == "super") {
                    base.pop();
                    rest = &rest[1..];
                }
                base.extend(rest.iter().cloned());
                base
            }
            Some(library) => {
                self.house.libraries.insert((module, library.to_owned()));
                return;
            }
            None => return,
        };
        let found = (1..=base.len())
            .rev()
            .map(|n| base[..n].join("/"))
            .find(|m| self.house.modules.contains(m));
        if let Some(found) = found.filter(|f| *f != module) {
            self.house.uses.insert((module, found));
        }
    }

    fn tree(&mut self, tree: &syn::UseTree, before: &[String]) {
        let with = |ident: &syn::Ident| [before, &[ident.to_string()]].concat();
        match tree {
            syn::UseTree::Path(p) => self.tree(&p.tree, &with(&p.ident)),
            syn::UseTree::Name(n) => self.path(&with(&n.ident)),
            syn::UseTree::Rename(r) => self.path(&with(&r.ident)),
            syn::UseTree::Glob(_) => self.path(before),
            syn::UseTree::Group(g) => g.items.iter().for_each(|t| self.tree(t, before)),
        }
    }
}

impl<'ast> Visit<'ast> for Reader<'_> {
    fn visit_item_mod(&mut self, module: &'ast syn::ItemMod) {
        let test = |a: &syn::Attribute| a.path().is_ident("cfg");
        if !module.attrs.iter().any(test) {
            visit::visit_item_mod(self, module);
        }
    }

    fn visit_item_use(&mut self, item: &'ast syn::ItemUse) {
        self.tree(&item.tree, &[]);
    }

    fn visit_path(&mut self, path: &'ast syn::Path) {
        let segments: Vec<String> = path.segments.iter().map(|s| s.ident.to_string()).collect();
        let first = segments[0].as_str();
        let known =
            matches!(first, "crate" | "super" | "self") || self.house.crates.contains(&first);
        if segments.len() > 1 && (known || ONLY.iter().any(|o| o.0 == first)) {
            self.path(&segments);
        }
        visit::visit_path(self, path);
    }

    fn visit_macro(&mut self, mac: &'ast syn::Macro) {
        let segments: Vec<String> = mac
            .path
            .segments
            .iter()
            .map(|s| s.ident.to_string())
            .collect();
        if segments.len() > 1 {
            self.path(&segments);
        }
    }
}

pub fn files(dir: &Path, found: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(dir).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            files(&path, found);
        } else if path.extension().is_some_and(|e| e == "rs") {
            found.push(path);
        }
    }
}

fn module_of(src: &Path, file: &Path) -> (Vec<String>, bool) {
    let rel = file.strip_prefix(src).unwrap().with_extension("");
    let mut parts: Vec<String> = rel
        .iter()
        .map(|p| p.to_string_lossy().into_owned())
        .collect();
    let is_folder = parts.last().is_some_and(|p| p == "mod");
    if is_folder {
        parts.pop();
    }
    (parts, is_folder)
}

/// Reads the house of one crate or of several; `planted` is more code in a module that is there.
fn house(
    sources: &[PathBuf],
    crates: &'static [&'static str],
    planted: Option<(&str, &str)>,
) -> House {
    let mut all: Vec<(&Path, PathBuf)> = Vec::new();
    for src in sources {
        let mut found = Vec::new();
        files(src, &mut found);
        assert!(found.len() >= 20, "no crate at {}", src.display());
        all.extend(found.into_iter().map(|f| (src.as_path(), f)));
    }
    let mut house = House {
        crates,
        modules: all
            .iter()
            .map(|(src, f)| module_of(src, f).0.join("/"))
            .collect(),
        ..House::default()
    };
    for (src, file) in &all {
        let (here, is_folder) = module_of(src, file);
        let mut text = std::fs::read_to_string(file).unwrap();
        if let Some((_, code)) = planted.filter(|p| p.0 == here.join("/")) {
            text.push_str(code);
        }
        let parsed = syn::parse_file(&text).unwrap();
        Reader {
            house: &mut house,
            here,
            is_folder,
        }
        .visit_file(&parsed);
    }
    house
}

/// The folder that a module is in; the room of the job is told by its own.
fn folder(module: &str) -> &str {
    let deep = if module.starts_with("job/") { 2 } else { 1 };
    let end = module.match_indices('/').nth(deep - 1);
    end.map_or(module, |(at, _)| &module[..at])
}

impl House {
    /// Imports that run upward or sideways between folders.
    fn upward(&self, allowed: &[(&str, &[&str])]) -> Vec<String> {
        let may: BTreeMap<&str, &[&str]> = allowed.iter().copied().collect();
        let wrong = |(from, to): &&(Module, Module)| {
            let (a, b) = (folder(from), folder(to));
            a != b && may.get(a).is_some_and(|m| !m.contains(&b))
        };
        let told = |(from, to): &(Module, Module)| format!("{from} may not use {to}");
        self.uses.iter().filter(wrong).map(told).collect()
    }

    /// Folders that the plan does not have.
    fn strangers(&self, allowed: &[(&str, &[&str])]) -> Vec<&str> {
        let top = ["lib", "main", "cli", "config"];
        let known = |f: &&str| !top.contains(f) && !allowed.iter().any(|a| a.0 == *f);
        let folders: BTreeSet<&str> = self.modules.iter().map(|m| folder(m)).collect();
        folders.into_iter().filter(known).collect()
    }

    /// Rings of imports between files. A folder's own file and those in it are one room: it gathers them.
    fn rings(&self) -> Vec<Vec<&str>> {
        let within = |a: &str, b: &str| a.starts_with(&format!("{b}/"));
        let mut graph = DiGraphMap::<&str, ()>::new();
        for (from, to) in &self.uses {
            if !within(from, to) && !within(to, from) {
                graph.add_edge(from, to, ());
            }
        }
        let rings = tarjan_scc(&graph).into_iter().filter(|r| r.len() > 1);
        rings.collect()
    }

    /// Libraries named where they are not known.
    fn libraries_out_of_place(&self) -> Vec<String> {
        let wrong = |(module, library): &&(Module, String)| {
            let only = ONLY.iter().find(|o| o.0 == library);
            only.is_some_and(|o| !o.1.contains(&folder(module)))
        };
        let told = |(module, library): &(Module, String)| format!("{module} names {library}");
        self.libraries.iter().filter(wrong).map(told).collect()
    }
}

/// The sources of the core, then those of the server.
fn core() -> [PathBuf; 2] {
    ["../arithmetic/src", "../rules/src"].map(|p| Path::new(env!("CARGO_MANIFEST_DIR")).join(p))
}

/// The sources of the server, then those of its database.
fn server() -> [PathBuf; 2] {
    ["src", "database/src"].map(|p| {
        Path::new(env!("CARGO_MANIFEST_DIR"))
            .join("../../server")
            .join(p)
    })
}

fn core_house(planted: Option<(&str, &str)>) -> House {
    house(&core(), CORE_CRATES, planted)
}

fn server_house(planted: Option<(&str, &str)>) -> House {
    house(&server(), SERVER_CRATES, planted)
}

#[test]
fn no_import_runs_upward_and_none_in_a_ring() {
    for (house, allowed) in [(core_house(None), CORE), (server_house(None), SERVER)] {
        assert!(house.uses.len() > 50, "paths are read");
        assert_eq!(house.upward(allowed), Vec::<String>::new());
        assert_eq!(house.strangers(allowed), Vec::<&str>::new());
        assert_eq!(house.rings(), Vec::<Vec<&str>>::new());
        assert_eq!(house.libraries_out_of_place(), Vec::<String>::new());
    }
}

#[test]
fn a_planted_breach_is_found() {
    let up = core_house(Some(("units/length", "use crate::verdict::Call;")));
    assert_eq!(up.upward(CORE), ["units/length may not use verdict"]);
    let below = core_house(Some(("verdict", "use anvil_rules::sheet::Sheet;")));
    assert_eq!(below.upward(CORE), ["verdict may not use sheet"]);
    let called = "fn f() { let _ = crate::views::check::check_view; }";
    let up = server_house(Some(("db/job", called)));
    assert_eq!(up.upward(SERVER), ["db/job may not use views/check"]);
    let ring = core_house(Some(("units/rounding", "use super::length::Length;")));
    assert_eq!(ring.rings().len(), 1);
    let sql = server_house(Some(("commands/jobs", "fn f(_: sqlx::PgPool) {}")));
    assert_eq!(sql.libraries_out_of_place(), ["commands/jobs names sqlx"]);
    let web = server_house(Some(("queries/checks", "use rocket::State;")));
    assert_eq!(
        web.libraries_out_of_place(),
        ["queries/checks names rocket"]
    );
}

/// The names that the types of a file go out under: a type that has a name of its own for it, or its own.
struct SchemaNames(Vec<String>);

impl SchemaNames {
    fn add(&mut self, attributes: &[syn::Attribute], ident: &syn::Ident) {
        let told: Vec<String> = attributes
            .iter()
            .map(|a| a.meta.to_token_stream().to_string())
            .collect();
        if !told.iter().any(|a| a.contains("ToSchema")) {
            return;
        }
        let as_said = |a: &String| {
            let after = a.strip_prefix("schema")?.split_once("as = ")?.1;
            Some(after.split(')').next()?.replace(' ', ""))
        };
        self.0
            .push(told.iter().find_map(as_said).unwrap_or(ident.to_string()));
    }
}

impl<'ast> Visit<'ast> for SchemaNames {
    fn visit_item_struct(&mut self, item: &'ast syn::ItemStruct) {
        self.add(&item.attrs, &item.ident);
    }

    fn visit_item_enum(&mut self, item: &'ast syn::ItemEnum) {
        self.add(&item.attrs, &item.ident);
    }
}

fn told_twice(texts: impl IntoIterator<Item = String>) -> Vec<String> {
    let mut names = SchemaNames(Vec::new());
    for text in texts {
        names.visit_file(&syn::parse_file(&text).unwrap());
    }
    let mut seen = BTreeSet::new();
    let twice = names.0.into_iter().filter(|n| !seen.insert(n.clone()));
    twice.collect()
}

/// Of two types with one name, the description of the interface would tell only one.
#[test]
fn no_two_types_go_out_under_one_name() {
    let mut all = Vec::new();
    for src in core().iter().chain(&server()) {
        files(src, &mut all);
    }
    let read = |f: &PathBuf| std::fs::read_to_string(f).unwrap();
    assert_eq!(told_twice(all.iter().map(read)), Vec::<String>::new());
    let planted = [
        "#[derive(ToSchema)] struct Line { nm: i64 }",
        "#[derive(utoipa::ToSchema)] #[schema(as = sheet::Line)] struct Line;",
        "#[derive(Debug, utoipa::ToSchema)] enum Line { A }",
    ];
    assert_eq!(told_twice(planted.map(str::to_owned)), ["Line"]);
}
