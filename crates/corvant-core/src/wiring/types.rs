//! The types that code declares, by their full names, however those are written; and what follows from them.

use crate::facts::{Callable, DeclaredType, Facts, Many, TypeKind};
use crate::name::{Name, Names};
use crate::source::SourceIndex;
use foldhash::{HashMap, HashSet};

/// How many types up a type is followed.
const UP: usize = 1_000;

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
                known.push(number as u32);
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

    /// All declarations of a type that has several parts, by the number of the first.
    fn parts<'f>(&self, facts: &'f Facts, names: &Names, first: usize) -> Vec<(usize, &'f DeclaredType)> {
        let name = with_dots(names.text(facts.declared_types[first].name.name));
        let all = self.by_name.get(&name).into_iter().flatten();
        all.map(|&number| (number as usize, &facts.declared_types[number as usize])).collect()
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

    /// All that a type is one of, over however many others.
    pub(crate) fn ancestry(&self, facts: &Facts, names: &Names, of: usize) -> Ancestry {
        let mut ancestry = Ancestry { is_whole: true, ..Ancestry::default() };
        let mut seen: HashSet<Name> = HashSet::default();
        let mut waiting = std::collections::VecDeque::from([of]);
        let mut known: HashSet<usize> = HashSet::from_iter([of]);
        while let Some(number) = waiting.pop_front() {
            ancestry.is_whole &= known.len() < UP;
            if known.len() >= UP {
                break;
            }
            for (part, declared) in self.parts(facts, names, number) {
                ancestry.declared.push(part);
                let scope = with_dots(names.text(declared.name.name));
                ancestry.is_whole &=
                    !declared.is_open && declared.kind != TypeKind::Unknown && !self.is_doubtful(&scope);
                for above in declared.supers.of(&facts.parts) {
                    if seen.insert(above.name) {
                        ancestry.names.push(above.name);
                    }
                    match self.find(names.text(above.name)) {
                        Some(number) if known.insert(number) => waiting.push_back(number),
                        Some(_) => {}
                        None => ancestry.is_whole &= is_root(names.text(above.name)),
                    }
                }
            }
        }
        ancestry
    }

    /// Whether a type is of another, by their full names; `None`: nobody can know.
    pub(crate) fn is_of(&self, facts: &Facts, names: &Names, of: usize, above: &str) -> Option<bool> {
        let above = with_dots(above);
        let target = self.get(&above)?;
        let wanted = &facts.declared_types[target];
        let ancestry = self.ancestry(facts, names, of);
        let is_there = ancestry.declared.contains(&target);
        if is_there {
            return Some(true);
        }
        let may_be = wanted.is_structural || wanted.kind == TypeKind::Alias || !ancestry.is_whole;
        (!may_be).then_some(false)
    }

    /// What a type is built with; `None`: nobody can know.
    pub(crate) fn constructors(&self, facts: &Facts, names: &Names, of: usize) -> Option<Constructors> {
        let (mut at, mut steps) = (of, 0);
        loop {
            let parts = self.parts(facts, names, at);
            let scope = with_dots(names.text(facts.declared_types[at].name.name));
            let is_unknown =
                |declared: &DeclaredType| matches!(declared.kind, TypeKind::Unknown | TypeKind::Alias);
            if self.is_doubtful(&scope) || parts.iter().any(|(_, declared)| is_unknown(declared)) {
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
            let supers = parts.iter().flat_map(|(_, declared)| declared.supers.of(&facts.parts));
            let supers: Vec<Option<usize>> = supers
                .filter(|above| !is_root(names.text(above.name)))
                .map(|above| self.find(names.text(above.name)))
                .collect();
            // An interface brings none.
            let is_class = |number: &Option<usize>| {
                number.is_none_or(|number| facts.declared_types[number].kind != TypeKind::Interface)
            };
            match supers.into_iter().find(is_class) {
                None => return Some(Constructors { of: first, all: declared.constructors }),
                Some(Some(above)) if steps < UP => at = above,
                Some(_) => return None,
            }
        }
    }

    /// The method of a type that has a name, its own or inherited; `Ok(None)`: it has none; `Err`: nobody can know.
    pub(crate) fn method<'f>(
        &self,
        facts: &'f Facts,
        names: &Names,
        of: usize,
        method: &str,
    ) -> Result<Option<(usize, &'f Callable)>, ()> {
        let ancestry = self.ancestry(facts, names, of);
        for &number in &ancestry.declared {
            let declared = &facts.declared_types[number];
            let is_it = |one: &&Callable| {
                let text = names.text(one.name.name);
                // In some languages the case of letters does not matter; where it does, that is a finding of the compiler.
                text == method || declared.inherits_constructor && text.eq_ignore_ascii_case(method)
            };
            let found = declared.methods.of(&facts.parts).iter().find(is_it);
            if let Some(found) = found {
                return Ok(Some((number, found)));
            }
        }
        // Of these some have methods that nobody writes.
        let has_others = |number: &usize| {
            let kind = facts.declared_types[*number].kind;
            matches!(kind, TypeKind::Alias | TypeKind::Unknown | TypeKind::Enum | TypeKind::Record)
        };
        if ancestry.is_whole && !ancestry.declared.iter().any(has_others) { Ok(None) } else { Err(()) }
    }
}

/// Which types say that they are of others.
#[derive(Debug, Default)]
pub(crate) struct Below {
    /// By number of a type those that name it as a super type.
    direct: HashMap<usize, Vec<usize>>,
}

impl Below {
    /// Types that name another as a super type, in the order of their declarations.
    pub(crate) fn direct(&self, of: usize) -> impl Iterator<Item = usize> {
        self.direct.get(&of).into_iter().flatten().copied()
    }

    /// Types that can be built and are of another, in the order of their declarations.
    pub(crate) fn concrete(&self, facts: &Facts, of: usize) -> Vec<usize> {
        let (mut waiting, mut seen) = (vec![of], HashSet::from_iter([of]));
        let mut concrete = Vec::new();
        while let Some(at) = waiting.pop() {
            for &below in self.direct.get(&at).into_iter().flatten() {
                if seen.insert(below) {
                    waiting.push(below);
                    let declared = &facts.declared_types[below];
                    let is_made = matches!(declared.kind, TypeKind::Class | TypeKind::Record);
                    concrete.extend(Some(below).filter(|_| is_made && !declared.is_abstract));
                }
            }
        }
        concrete.sort_unstable();
        concrete
    }
}

impl TypeIndex {
    /// Which types are of which others, in one pass over all.
    pub(crate) fn below(&self, facts: &Facts, names: &Names) -> Below {
        let mut below = Below::default();
        for (number, declared) in facts.declared_types.iter().enumerate() {
            for above in declared.supers.of(&facts.parts) {
                if let Some(above) = self.find(names.text(above.name)) {
                    below.direct.entry(above).or_default().push(number);
                }
            }
        }
        below
    }

    /// All methods of a type, its own first, with the files that they are in.
    pub(crate) fn methods<'f>(
        &self,
        facts: &'f Facts,
        names: &Names,
        of: usize,
    ) -> Vec<(SourceIndex, &'f Callable)> {
        let declared = self.ancestry(facts, names, of).declared;
        let declared = declared.into_iter().map(|number| &facts.declared_types[number]);
        declared
            .flat_map(|one| one.methods.of(&facts.parts).iter().map(|method| (one.source, method)))
            .collect()
    }
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
    let text = text.split('<').next().unwrap_or(text).trim();
    let dotted = text.replace("::", ".").replace(['\\', '/', '#', '$', '+'], ".");
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
