//! The types that code declares, by their full names, however those are written; and what follows from them.

use crate::facts::{Callable, DeclaredType, Facts, Many, TypeKind};
use crate::name::{Name, Names};
use crate::source::SourceIndex;
use foldhash::{HashMap, HashSet};
use std::ops::Deref;
use std::sync::OnceLock;

/// How many types up a type is followed.
const UP: usize = 1_000;
/// How many declarations of one name are looked at: of a type with more nothing is known for sure.
const PARTS: usize = 100;

/// An index of the types that code declares. Built in one pass over them.
#[derive(Debug, Default)]
pub(crate) struct TypeIndex {
    /// By full name with dots between its parts the numbers of its declarations; of those in parts there are several.
    by_name: HashMap<String, Vec<u32>>,
    /// What the names of types begin with: scopes, and types in which others stand.
    scopes: HashSet<String>,
    /// By the last part of their names the full ones.
    by_last_part: HashMap<String, Vec<String>>,
    /// Scopes of which not all is known; an empty one stands for all.
    doubtful: HashSet<String>,
    /// Which types are of which others, once that is asked for.
    below: OnceLock<Below>,
}

/// The index with the facts that it is of.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Types<'a> {
    pub(crate) index: &'a TypeIndex,
    pub(crate) facts: &'a Facts,
    pub(crate) names: &'a Names,
}

impl<'a> Deref for Types<'a> {
    type Target = &'a TypeIndex;

    fn deref(&self) -> &Self::Target {
        &self.index
    }
}

/// All that a type is one of.
#[derive(Debug, Default)]
pub(crate) struct Ancestry {
    /// The full names, with arguments, nearest first; the type itself is none of them.
    pub(crate) names: Vec<Name>,
    /// The numbers of those that are declared, the type itself first.
    pub(crate) declared: Vec<usize>,
    /// Whether that is all: none is declared where nobody looked.
    pub(crate) is_whole: bool,
}

/// What a type may be built with.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Constructors {
    /// The declaration that has them: the type's own, or one that it inherits from.
    pub(crate) of: usize,
    /// They; there may be none, and then nothing is needed.
    pub(crate) all: Many<Callable>,
}

impl TypeIndex {
    pub(crate) fn new(facts: &Facts, names: &Names) -> Self {
        let mut index = Self::default();
        for (number, declared) in facts.declared_types.iter().enumerate() {
            let name = with_dots(names.text(declared.name.name));
            if let Some(known) = index.by_name.get_mut(&name) {
                if known.len() < PARTS {
                    known.push(number as u32);
                }
                continue;
            }
            if let Some((scope, last)) = name.rsplit_once('.') {
                index.scopes.insert(scope.to_owned());
                index.by_last_part.entry(last.to_owned()).or_default().push(name.clone());
            }
            index.by_name.insert(name, vec![number as u32]);
        }
        let doubtful = facts.doubtful_scopes.iter();
        let doubtful =
            doubtful.map(|scope| scope.map_or_else(String::new, |scope| with_dots(names.text(scope))));
        index.doubtful = doubtful.collect();
        index
    }

    /// Whether none is declared.
    pub(crate) fn is_empty(&self) -> bool {
        self.by_name.is_empty()
    }

    /// The scope of a name, with dots, where all types of that are known and it is none of them.
    pub(crate) fn lacks<'n>(&self, name: &'n str) -> Option<&'n str> {
        let (scope, _) = name.rsplit_once('.')?;
        let is_known = self.scopes.contains(scope) && !self.by_name.contains_key(name);
        (is_known && !self.is_doubtful(scope)).then_some(scope)
    }

    fn is_doubtful(&self, scope: &str) -> bool {
        let mut beginnings =
            std::iter::successors(Some(scope), |scope| scope.rsplit_once('.').map(|(around, _)| around));
        !self.doubtful.is_empty()
            && (self.doubtful.contains("") || beginnings.any(|scope| self.doubtful.contains(scope)))
    }

    /// The number of a type's first declaration, by its full name with dots.
    pub(crate) fn get(&self, name: &str) -> Option<usize> {
        self.by_name.get(name).map(|all| all[0] as usize)
    }

    /// The same by a name as it is written, arguments and all.
    pub(crate) fn find(&self, text: &str) -> Option<usize> {
        self.get(&with_dots(text))
    }

    /// All full names, in order.
    pub(crate) fn names(&self) -> Vec<&str> {
        let mut names: Vec<&str> = self.by_name.keys().map(String::as_str).collect();
        names.sort_unstable();
        names
    }

    /// The one type of another scope whose name has the same last part.
    pub(crate) fn namesake(&self, name: &str) -> Option<&str> {
        let last = name.rsplit('.').next()?;
        match self.by_last_part.get(last).map(Vec::as_slice) {
            Some([only]) => Some(only),
            _ => None,
        }
    }
}

impl<'a> Types<'a> {
    /// All declarations of a type that has several parts, by the number of the first.
    fn parts(self, first: usize) -> Vec<(usize, &'a DeclaredType)> {
        let name = with_dots(self.names.text(self.facts.declared_types[first].name.name));
        let all = self.by_name.get(&name).into_iter().flatten();
        all.map(|&number| (number as usize, &self.facts.declared_types[number as usize])).collect()
    }

    /// All that a type is one of, over however many others.
    pub(crate) fn ancestry(self, of: usize) -> Ancestry {
        let mut ancestry = Ancestry { is_whole: true, ..Ancestry::default() };
        let mut seen: HashSet<Name> = HashSet::default();
        let mut waiting = std::collections::VecDeque::from([of]);
        let mut known: HashSet<usize> = HashSet::from_iter([of]);
        while let Some(number) = waiting.pop_front() {
            ancestry.is_whole &= known.len() < UP;
            if known.len() >= UP {
                break;
            }
            let parts = self.parts(number);
            ancestry.is_whole &= parts.len() < PARTS;
            for (part, declared) in parts {
                ancestry.declared.push(part);
                let scope = with_dots(self.names.text(declared.name.name));
                ancestry.is_whole &= !declared.is_open && !self.is_doubtful(&scope);
                for above in declared.supers.of(&self.facts.parts) {
                    if seen.insert(above.name) {
                        ancestry.names.push(above.name);
                    }
                    match self.find(self.names.text(above.name)) {
                        Some(number) if known.insert(number) => waiting.push_back(number),
                        Some(_) => {}
                        None => ancestry.is_whole &= is_root(self.names.text(above.name)),
                    }
                }
            }
        }
        ancestry
    }

    /// Whether a type is of another, by their full names; `None`: nobody can know.
    pub(crate) fn is_of(self, of: usize, above: &str) -> Option<bool> {
        let above = with_dots(above);
        let target = self.get(&above)?;
        let wanted = &self.facts.declared_types[target];
        let ancestry = self.ancestry(of);
        let is_there = ancestry.declared.contains(&target);
        if is_there {
            return Some(true);
        }
        let may_be = wanted.is_structural || wanted.kind == TypeKind::Alias || !ancestry.is_whole;
        (!may_be).then_some(false)
    }

    /// What a type is built with; `None`: nobody can know.
    pub(crate) fn constructors(self, of: usize) -> Option<Constructors> {
        let (mut at, mut steps) = (of, 0);
        loop {
            let parts = self.parts(at);
            let scope = with_dots(self.names.text(self.facts.declared_types[at].name.name));
            let is_alias = parts.iter().any(|(_, declared)| declared.kind == TypeKind::Alias);
            if self.is_doubtful(&scope) || is_alias || parts.len() >= PARTS {
                return None;
            }
            let own = parts.iter().find(|(_, declared)| !declared.constructors.is_empty());
            if let Some((number, declared)) = own {
                return Some(Constructors { of: *number, all: declared.constructors });
            }
            let (first, declared) = *parts.first()?;
            if !parts.iter().any(|(_, declared)| declared.inherits_constructor) {
                // What a generator adds may have one.
                let is_known = !parts.iter().any(|(_, declared)| declared.is_open);
                return is_known.then_some(Constructors { of: first, all: declared.constructors });
            }
            steps += 1;
            let supers = parts.iter().flat_map(|(_, declared)| declared.supers.of(&self.facts.parts));
            let supers: Vec<Option<usize>> = supers
                .filter(|above| !is_root(self.names.text(above.name)))
                .map(|above| self.find(self.names.text(above.name)))
                .collect();
            // An interface brings none.
            let is_class = |number: &Option<usize>| {
                number.is_none_or(|number| self.facts.declared_types[number].kind != TypeKind::Interface)
            };
            match supers.into_iter().find(is_class) {
                None => return Some(Constructors { of: first, all: declared.constructors }),
                Some(Some(above)) if steps < UP => at = above,
                Some(_) => return None,
            }
        }
    }

    /// Whether a type has a method, its own or inherited; `None`: nobody can know.
    pub(crate) fn has_method(self, of: usize, method: &str) -> Option<bool> {
        let ancestry = self.ancestry(of);
        let declared = || ancestry.declared.iter().map(|&number| &self.facts.declared_types[number]);
        let has_it = |declared: &DeclaredType| {
            declared.methods.of(&self.facts.parts).iter().any(|one| {
                let text = self.names.text(one.name.name);
                // In some languages the case of letters does not matter; where it does, that is a finding of the compiler.
                text == method || declared.inherits_constructor && text.eq_ignore_ascii_case(method)
            })
        };
        // Of these some have methods that nobody writes.
        let has_others =
            |one: &DeclaredType| matches!(one.kind, TypeKind::Alias | TypeKind::Enum | TypeKind::Record);
        if declared().any(has_it) {
            Some(true)
        } else {
            (ancestry.is_whole && !declared().any(has_others)).then_some(false)
        }
    }

    /// All methods of a type, its own first, with the files that they are in.
    pub(crate) fn methods(self, of: usize) -> Vec<(SourceIndex, &'a Callable)> {
        let declared =
            self.ancestry(of).declared.into_iter().map(|number| &self.facts.declared_types[number]);
        let of = |one: &'a DeclaredType| {
            one.methods.of(&self.facts.parts).iter().map(|method| (one.source, method))
        };
        declared.flat_map(of).collect()
    }

    /// Types that name another as a super type, in the order of their declarations.
    pub(crate) fn directly_below(self, of: usize) -> &'a [usize] {
        self.below().direct.get(&of).map(Vec::as_slice).unwrap_or_default()
    }

    /// Types that can be built and are of another, in the order of their declarations.
    pub(crate) fn concrete_below(self, of: usize) -> Vec<usize> {
        let (mut waiting, mut seen) = (vec![of], HashSet::from_iter([of]));
        let mut concrete = Vec::new();
        while let Some(at) = waiting.pop() {
            for &below in self.directly_below(at) {
                if seen.insert(below) {
                    waiting.push(below);
                    let declared = &self.facts.declared_types[below];
                    let is_made = matches!(declared.kind, TypeKind::Class | TypeKind::Record);
                    concrete.extend(Some(below).filter(|_| is_made && !declared.is_abstract));
                }
            }
        }
        concrete.sort_unstable();
        concrete
    }

    fn below(self) -> &'a Below {
        self.index.below.get_or_init(|| {
            let mut below = Below::default();
            for (number, declared) in self.facts.declared_types.iter().enumerate() {
                for above in declared.supers.of(&self.facts.parts) {
                    if let Some(above) = self.find(self.names.text(above.name)) {
                        below.direct.entry(above).or_default().push(number);
                    }
                }
            }
            below
        })
    }
}

/// Which types say that they are of others.
#[derive(Debug, Default)]
pub(crate) struct Below {
    /// By number of a type those that name it as a super type.
    direct: HashMap<usize, Vec<usize>>,
}

/// Whether every type is one of these, in some language: that says nothing.
fn is_root(text: &str) -> bool {
    matches!(
        text,
        "Object" | "java.lang.Object" | "Any" | "kotlin.Any" | "object" | "System.Object" | "ABC" | "abc.ABC"
    ) || text.starts_with("Generic[")
        || text.starts_with("Generic<")
        || text.starts_with("typing.Generic")
        || text.starts_with("Protocol")
        || text.starts_with("typing.Protocol")
}

/// A name of a type with dots between its parts, without arguments of its own.
pub(crate) fn with_dots(text: &str) -> String {
    whole_with_dots(text.split('<').next().unwrap_or(text))
}

/// The same with its arguments, in which no spaces count.
pub(crate) fn whole_with_dots(text: &str) -> String {
    let dotted = text.replace("::", ".").replace(['\\', '/', '#', '$', '+'], ".").replace(' ', "");
    dotted.trim_matches('.').to_owned()
}

/// A name with dots, written as another is.
pub(crate) fn written_as(name: &str, model: &str) -> String {
    let separator = ["::", "\\", "/", "#"].into_iter().find(|separator| model.contains(separator));
    let written = name.replace('.', separator.unwrap_or("."));
    if model.starts_with('\\') { format!("\\{written}") } else { written }
}

/// The short name of a type.
pub(crate) fn short(text: &str) -> &str {
    let text = text.split('<').next().unwrap_or(text);
    text.rsplit(['.', '\\', '/', '#', ':', '$']).next().unwrap_or(text)
}
