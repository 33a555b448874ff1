//! What is public says what it is, and no document comment only says its own name again.

use std::path::{Path, PathBuf};

use syn::visit::{self, Visit};
use syn::{Attribute, Ident, Visibility};

use crate::layers::files;

/// Words that say nothing by themselves.
const EMPTY: &[&str] = &[
    "the", "a", "an", "it", "its", "is", "of", "what", "which", "this", "that", "one", "and",
    "are", "in", "at", "for", "to",
];

/// A document comment's own lines.
fn doc(attributes: &[Attribute]) -> Vec<String> {
    let line = |a: &Attribute| match &a.meta {
        syn::Meta::NameValue(n) if n.path.is_ident("doc") => match &n.value {
            syn::Expr::Lit(l) => match &l.lit {
                syn::Lit::Str(text) => Some(text.value()),
                _ => None,
            },
            _ => None,
        },
        _ => None,
    };
    attributes.iter().filter_map(line).collect()
}

fn stem(word: &str) -> String {
    let word = word.to_lowercase();
    match word.strip_suffix("ies") {
        Some(root) => format!("{root}y"),
        None if word.len() > 3 => word.trim_end_matches('s').to_owned(),
        None => word,
    }
}

/// The words of a name, with what its endings stand for.
fn words_of(name: &str) -> Vec<String> {
    let mut spaced = String::new();
    for c in name.chars() {
        if c.is_uppercase() {
            spaced.push(' ');
        }
        spaced.push(if c == '_' { ' ' } else { c });
    }
    let mut words: Vec<String> = spaced.split_whitespace().map(stem).collect();
    let long = words.iter().filter_map(|w| match w.as_str() {
        "nm" => Some(stem("nanometres")),
        "no" => Some(stem("number")),
        _ => None,
    });
    words.extend(long.collect::<Vec<_>>());
    words
}

/// A comment of one line that holds no word which its name does not.
fn repeats(lines: &[String], name: &str) -> bool {
    let [line] = lines else { return false };
    let own = words_of(name);
    let words = line.split(|c: char| !c.is_alphanumeric() && c != '’');
    let mut said = words.filter(|w| !w.is_empty()).map(stem).peekable();
    said.peek().is_some() && said.all(|w| EMPTY.contains(&w.as_str()) || own.contains(&w))
}

#[derive(Default)]
struct Comments {
    bare: Vec<String>,
    repeating: Vec<String>,
}

impl Comments {
    fn item(&mut self, visibility: &Visibility, attributes: &[Attribute], name: &Ident) {
        let lines = doc(attributes);
        if lines.is_empty() && matches!(visibility, Visibility::Public(_)) {
            self.bare.push(name.to_string());
        }
        self.part(attributes, name);
    }

    fn part(&mut self, attributes: &[Attribute], name: &Ident) {
        if repeats(&doc(attributes), &name.to_string()) {
            self.repeating.push(name.to_string());
        }
    }
}

impl<'ast> Visit<'ast> for Comments {
    fn visit_item_fn(&mut self, item: &'ast syn::ItemFn) {
        self.item(&item.vis, &item.attrs, &item.sig.ident);
    }

    fn visit_impl_item_fn(&mut self, item: &'ast syn::ImplItemFn) {
        self.item(&item.vis, &item.attrs, &item.sig.ident);
    }

    fn visit_item_struct(&mut self, item: &'ast syn::ItemStruct) {
        self.item(&item.vis, &item.attrs, &item.ident);
        visit::visit_item_struct(self, item);
    }

    fn visit_item_enum(&mut self, item: &'ast syn::ItemEnum) {
        self.item(&item.vis, &item.attrs, &item.ident);
        visit::visit_item_enum(self, item);
    }

    fn visit_item_trait(&mut self, item: &'ast syn::ItemTrait) {
        self.item(&item.vis, &item.attrs, &item.ident);
    }

    fn visit_item_const(&mut self, item: &'ast syn::ItemConst) {
        self.item(&item.vis, &item.attrs, &item.ident);
    }

    fn visit_item_type(&mut self, item: &'ast syn::ItemType) {
        self.item(&item.vis, &item.attrs, &item.ident);
    }

    fn visit_field(&mut self, field: &'ast syn::Field) {
        if let Some(name) = &field.ident {
            self.part(&field.attrs, name);
        }
    }

    fn visit_variant(&mut self, variant: &'ast syn::Variant) {
        self.part(&variant.attrs, &variant.ident);
        visit::visit_variant(self, variant);
    }
}

fn comments(text: &str) -> Comments {
    let mut found = Comments::default();
    found.visit_file(&syn::parse_file(text).unwrap());
    found
}

#[test]
fn what_is_public_says_what_it_is_and_not_its_name_again() {
    let house = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let mut all: Vec<PathBuf> = Vec::new();
    for src in [
        "core/arithmetic/src",
        "core/rules/src",
        "server/src",
        "server/database/src",
        "stand-in/src",
    ] {
        files(&house.join(src), &mut all);
    }
    let mut wrong = Vec::new();
    for file in &all {
        let found = comments(&std::fs::read_to_string(file).unwrap());
        let at = |what: &str, name: &String| format!("{}: {name} {what}", file.display());
        wrong.extend(found.bare.iter().map(|n| at("says nothing", n)));
        wrong.extend(found.repeating.iter().map(|n| at("repeats its name", n)));
    }
    assert!(all.len() > 150 && wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn a_bare_item_and_an_empty_comment_are_found() {
    let planted = comments(
        "pub fn bare() {}
         /// The check key.
         pub struct CheckKey {
             /// The job's number.
             job_no: i32,
             /// The initials of whoever read it.
             who: String,
             length_nm: i64,
         }
         /// Which families there are.
         pub enum Family {
             /// Shims, thinnest first.
             Shims,
         }",
    );
    assert_eq!(planted.bare, ["bare"]);
    assert_eq!(planted.repeating, ["CheckKey"]);
    assert!(repeats(&["The number of the job.".into()], "job_no"));
    assert!(repeats(
        &["Its thickness in nanometres".into()],
        "thickness_nm"
    ));
    assert!(!repeats(
        &["How thick it is in nanometres".into()],
        "thickness_nm"
    ));
    assert!(!repeats(
        &["The job.".into(), "More of it.".into()],
        "job_no"
    ));
}
