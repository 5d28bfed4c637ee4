//! Full names: what a name that is written in one file stands for, once all files are read.

use super::Language;
use super::outline::{Outline, TypeOutline, TypeUse, Value};
use corvant_core::facts::TypeKind;
use foldhash::{HashMap, HashSet};
use std::ops::Range;

/// How often a name is handed on at most.
const STEPS: usize = 16;
/// How many scopes all files see at most, and how many parts one type has once aliases are followed.
const EVERYWHERE: usize = 1_000;
const PARTS: usize = 1_000;
/// How many types one type is said to be one of.
const ANCESTORS: usize = 1_000;

/// One file and what is declared in it.
#[derive(Clone, Debug)]
pub(crate) struct CodeFile {
    pub(crate) path: String,
    pub(crate) language: Language,
    pub(crate) outline: Outline,
}

/// All that is declared, by full names.
#[derive(Debug, Default)]
pub(crate) struct Resolver<'a> {
    /// By full name the first declaration, and where it is.
    types: HashMap<&'a str, Place<'a>>,
    /// By full name of what is handed on, what that is.
    handed_on: HashMap<String, String>,
    /// By file the files all of whose names it hands on.
    all_of: HashMap<String, Vec<String>>,
    /// Scopes that all files see.
    everywhere: Vec<&'a str>,
    /// By full name of a constant its text.
    constants: HashMap<String, &'a str>,
}

/// A file in which names are looked up.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Place<'a> {
    pub(crate) file: &'a CodeFile,
    pub(crate) inside: &'a TypeOutline,
}

impl<'a> Resolver<'a> {
    /// Of all files of a workspace.
    pub(crate) fn new(files: impl Iterator<Item = &'a CodeFile> + Clone) -> Self {
        let mut resolver = Self::default();
        for file in files.clone() {
            for scope in &file.outline.imports.everywhere {
                if resolver.everywhere.len() < EVERYWHERE && !resolver.everywhere.contains(&scope.as_str()) {
                    resolver.everywhere.push(scope);
                }
            }
            let constants = file.outline.constants.iter();
            resolver.constants.extend(constants.map(|(name, text)| (name.clone(), text.as_str())));
            for one in &file.outline.types {
                resolver.types.entry(&one.name).or_insert(Place { file, inside: one });
                for field in &one.fields {
                    if let Some(Value::Text(text)) = field.value.as_ref().map(|literal| &literal.value) {
                        resolver.constants.insert(format!("{}.{}", one.name, field.name), text);
                    }
                }
            }
        }
        for file in files {
            let own = file.outline.scopes.first().map_or("", String::as_str);
            if file.language == Language::Python {
                // What a module imports can be imported from it.
                let named = file.outline.imports.named.iter();
                resolver
                    .handed_on
                    .extend(named.map(|(short, full)| (format!("{own}.{short}"), full.clone())));
                continue;
            }
            for (name, full) in &file.outline.imports.handed_on {
                let full = module_name(own, full);
                if name.is_empty() {
                    resolver
                        .all_of
                        .entry(own.to_owned())
                        .or_default()
                        .push(full.trim_end_matches('#').to_owned());
                } else {
                    resolver.handed_on.insert(format!("{own}#{name}"), full);
                }
            }
        }
        resolver
    }

    /// Whether a type of that full name is declared.
    pub(crate) fn is_known(&self, name: &str) -> bool {
        self.types.contains_key(name)
    }

    /// Whether a type is declared in a scope, whose full name is then left in `candidate`.
    fn is_known_in(&self, scope: &str, separator: &str, name: &str, candidate: &mut String) -> bool {
        candidate.clear();
        for part in [scope, separator, name] {
            candidate.push_str(part);
        }
        self.is_known(candidate)
    }

    /// Whether a type of that full name is an enumeration.
    pub(crate) fn is_enumeration(&self, name: &str) -> bool {
        self.types.get(name).is_some_and(|place| place.inside.kind == TypeKind::Enum)
    }

    /// The full name that a name stands for; of what is declared nowhere, the name that is surely meant, or the name as
    /// it is written.
    pub(crate) fn full(&self, name: &str, place: Place<'_>) -> String {
        let language = place.file.language;
        match language {
            Language::Php => return Self::php(name, place),
            // A compiler writes full names.
            Language::ClassFile => return name.to_owned(),
            _ => {}
        }
        let (first, rest) = name.split_once('.').map_or((name, ""), |(first, rest)| (first, rest));
        let behind = |scope: &str| {
            // What stands for a whole module ends with the sign for what is in it.
            let separator = if scope.ends_with('#') { "" } else { "." };
            if rest.is_empty() { scope.to_owned() } else { format!("{scope}{separator}{rest}") }
        };
        let imports = &place.file.outline.imports;
        if let Some(full) = imports.named.get(first) {
            return self.imported(&behind(full), place);
        }
        let above = |name: &str| match language {
            Language::TypeScript => name.rfind(['.', '#']),
            _ => memchr::memrchr(b'.', name.as_bytes()),
        };
        let mut candidate = String::new();
        let own = place.inside.name.as_str();
        let inside = std::iter::successors(Some(own), |around| Some(&around[..above(around)?]));
        for around in inside {
            // The type itself, and what is declared in it and around it.
            let last = above(around).map_or(around, |at| &around[at + 1..]);
            if last == name && self.is_known(around) {
                return around.to_owned();
            }
            let is_scope = around.len() <= place.inside.scope.len();
            let is_seen = !is_scope || around == place.inside.scope || language == Language::CSharp;
            let is_module = language == Language::TypeScript && !around.contains('#');
            if is_seen && self.is_known_in(around, if is_module { "#" } else { "." }, name, &mut candidate) {
                return candidate;
            }
        }
        let seen = imports.all_of.iter().map(String::as_str);
        let everywhere = self.everywhere.iter().copied().filter(|_| language == Language::CSharp);
        for scope in seen.chain(everywhere) {
            if self.is_known_in(scope, ".", name, &mut candidate) {
                return candidate;
            }
        }
        name.to_owned()
    }

    /// A name that an import gives, followed to where it is declared.
    fn imported(&self, full: &str, place: Place<'_>) -> String {
        match place.file.language {
            Language::TypeScript => {
                let own = place.file.outline.scopes.first().map_or("", String::as_str);
                self.followed(module_name(own, full))
            }
            Language::Python => {
                let mut full = full;
                for _ in 0..STEPS {
                    match self.handed_on.get(full).filter(|_| !self.is_known(full)) {
                        Some(next) => full = next,
                        None => break,
                    }
                }
                full.to_owned()
            }
            _ => full.to_owned(),
        }
    }

    /// A name of a file, followed through what files hand on.
    fn followed(&self, mut full: String) -> String {
        for _ in 0..STEPS {
            if self.is_known(&full) {
                return full;
            }
            let Some((file, name)) = full.split_once('#') else { return full };
            let index = format!("{file}/index#{name}");
            let next = [&full, &index].into_iter().find_map(|name| self.handed_on.get(name).cloned());
            let from = [file.to_owned(), format!("{file}/index")];
            let from_all = || {
                let files = from.iter().filter_map(|file| self.all_of.get(file)).flatten();
                files.map(|file| format!("{file}#{name}")).find(|full| {
                    self.is_known(full)
                        || self.handed_on.contains_key(full)
                        || self.is_known(&full.replace('#', "/index#"))
                })
            };
            if self.is_known(&index) {
                return index;
            }
            match next.or_else(from_all) {
                Some(next) => full = next,
                None => return full,
            }
        }
        full
    }

    fn php(name: &str, place: Place<'_>) -> String {
        if let Some(full) = name.strip_prefix('\\') {
            return full.to_owned();
        }
        let scope = &place.inside.scope;
        let in_scope =
            |name: &str| if scope.is_empty() { name.to_owned() } else { format!("{scope}\\{name}") };
        match name {
            "self" | "static" => return place.inside.name.clone(),
            _ if name.starts_with("namespace\\") => return in_scope(&name["namespace\\".len()..]),
            _ => {}
        }
        let (first, rest) = name.split_once('\\').map_or((name, None), |(first, rest)| (first, Some(rest)));
        let named = place.file.outline.imports.named.get(&first.to_lowercase());
        match (named, rest) {
            (Some(full), Some(rest)) => format!("{full}\\{rest}"),
            (Some(full), None) => full.clone(),
            (None, _) => in_scope(name),
        }
    }

    /// A type with full names, aliases followed; `None`: what it is is not known. What stands for any type is a star.
    pub(crate) fn resolved(&self, of: &TypeUse, place: Place<'_>) -> Option<TypeUse> {
        self.resolved_through(of, place, 0, &mut 0)
    }

    fn resolved_through(
        &self,
        of: &TypeUse,
        place: Place<'_>,
        steps: usize,
        parts: &mut usize,
    ) -> Option<TypeUse> {
        *parts += 1;
        if of.name.is_empty() || steps > STEPS || *parts > PARTS {
            return None;
        }
        let arguments = of.arguments.iter().map(|argument| {
            let unknown = || TypeUse { name: "*".to_owned(), ..TypeUse::default() };
            self.resolved_through(argument, place, steps + 1, parts).unwrap_or_else(unknown)
        });
        let arguments: Vec<TypeUse> = arguments.collect();
        let name = match of.name.as_str() {
            "[]" | "|" | "*" => of.name.clone(),
            name if place.inside.type_parameters.iter().any(|one| one == name) => "*".to_owned(),
            name => self.full(name, place),
        };
        let declared = self.types.get(name.as_str()).copied();
        if let Some(place) = declared.filter(|place| place.inside.kind == TypeKind::Alias) {
            let stands_for = place.inside.supers.first()?;
            let found = self.resolved_through(stands_for, place, steps + 1, parts)?;
            return Some(TypeUse {
                is_nullable: found.is_nullable || of.is_nullable,
                at: of.at.clone(),
                ..found
            });
        }
        Some(TypeUse { name, arguments, is_nullable: of.is_nullable, at: of.at.clone() })
    }

    /// The full names, without arguments, of all that a type is one of, nearest first, as far as that is declared.
    pub(crate) fn ancestors(&self, place: Place<'_>) -> Vec<(String, Range<usize>)> {
        let mut all: Vec<(String, Range<usize>)> = Vec::new();
        let mut seen: HashSet<String> = HashSet::default();
        let direct = |place: Place<'_>| {
            let supers = place.inside.supers.iter().filter_map(|above| self.resolved(above, place));
            supers.map(|above| (above.name, above.at)).collect::<Vec<_>>()
        };
        let mut waiting = std::collections::VecDeque::from(direct(place));
        while let Some((name, at)) = waiting.pop_front() {
            if all.len() >= ANCESTORS || !seen.insert(name.clone()) {
                continue;
            }
            if let Some(&above) = self.types.get(name.as_str()) {
                // What is said elsewhere stands where it is taken over.
                waiting.extend(direct(above).into_iter().map(|(name, _)| (name, at.clone())));
            }
            all.push((name, at));
        }
        all
    }

    /// What a constant is worth, where it is written as a text.
    pub(crate) fn constant(&self, name: &str, place: Place<'_>) -> Option<&'a str> {
        let (of, constant) = name.rsplit_once('.').unwrap_or(("", name));
        let of = if of.is_empty() || matches!(of, "self" | "static" | "this") {
            place.inside.name.clone()
        } else {
            self.full(of, place)
        };
        let own = self.constants.get(&format!("{of}.{constant}")).copied();
        // A constant may be imported by itself, or stand outside of types.
        let imports = &place.file.outline.imports.named;
        let imported = || {
            let full = imports.get(name)?;
            let known = self.constants.get(full);
            known.or_else(|| self.constants.get(&self.imported(full, place))).copied()
        };
        let outside = || {
            let scope = place.inside.scope.as_str();
            let separators: &[&str] = if scope.is_empty() { &[""] } else { &[".", "#", "\\"] };
            separators
                .iter()
                .find_map(|separator| self.constants.get(&format!("{scope}{separator}{name}")).copied())
        };
        own.or_else(imported).or_else(outside)
    }
}

/// A name in another file of scripts, from the root.
fn module_name(own: &str, written: &str) -> String {
    let Some((file, name)) = written.split_once('#') else { return written.to_owned() };
    if file.is_empty() {
        return format!("{own}#{name}");
    }
    if !file.starts_with('.') {
        return written.to_owned();
    }
    let mut parts: Vec<&str> = own.split('/').collect();
    parts.pop();
    for part in file.split('/') {
        match part {
            "." | "" => {}
            ".." => _ = parts.pop(),
            part => parts.push(part),
        }
    }
    let path = parts.join("/");
    let path =
        [".ts", ".tsx", ".js", ".jsx"].iter().find_map(|ending| path.strip_suffix(ending)).unwrap_or(&path);
    format!("{path}#{name}")
}
