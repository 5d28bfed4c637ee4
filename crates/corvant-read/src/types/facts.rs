//! From outlines to facts, once it is known what names stand for.

use super::outline::{Callable, Mark, Parameter, TypeOutline, TypeUse};
use super::resolve::{CodeFile, Place, Resolver};
use super::wires::{Gives, Means, Wires, text, text_of_mark};
use super::{Language, Methods};
use crate::native::workspace_file::ScopeFolder;
use corvant_core::facts::{self, DeclaredType, Facts, Many, Named, Target, TypeKind};
use corvant_core::name::{Interner, Name};
use corvant_core::source::{SourceIndex, Span};
use foldhash::HashMap;
use std::cell::RefCell;
use std::ops::Range;

/// Everything that is looked up to make facts.
#[derive(Clone, Copy)]
pub(crate) struct Maker<'a> {
    pub(crate) resolver: &'a Resolver<'a>,
    pub(crate) wires: &'a Wires,
    /// Folders below which the types of a scope must lie.
    pub(crate) folders: &'a [ScopeFolder],
    pub(crate) interner: &'a Interner,
    pub(crate) memo: &'a Memo,
    pub(crate) methods: Methods,
}

/// What names in one type stand for, as far as they were asked for: most stand in it often.
#[derive(Debug, Default)]
pub(crate) struct Memo(RefCell<InOneType>);

/// The type in which they stand, by its address, and by what is written, and whether that may be nothing, what it is.
#[derive(Debug, Default)]
struct InOneType {
    inside: usize,
    known: HashMap<(Name, bool), KnownType>,
}

/// A type where it is used.
#[derive(Clone, Copy, Debug, Default)]
struct KnownType {
    /// Its full name with its arguments; `None`: it is not known.
    name: Option<Name>,
    asks: Asks,
}

impl KnownType {
    fn named(self, of: &TypeUse) -> Option<Named> {
        self.name.map(|name| Named { name, span: Span::new(of.at.start, of.at.end) })
    }
}

/// What a parameter asks for.
#[derive(Clone, Copy, Debug, Default)]
struct Asks {
    target: Option<Target>,
    is_optional: bool,
    is_lazy: bool,
}

impl Maker<'_> {
    /// Adds the types of a file.
    pub(crate) fn add(&self, file: &CodeFile, to: &mut Facts) {
        for inside in &file.outline.types {
            let declared = self.declared(Place { file, inside }, to);
            to.declared_types.push(declared);
        }
        if file.language == Language::Kotlin {
            // What stands outside of types is a type of its own for the platform, called after the file.
            let stem = file.path.rsplit('/').next().unwrap_or(&file.path).trim_end_matches(".kt");
            let scope = file.outline.scopes.first().map_or_else(String::new, |scope| format!("{scope}."));
            let inside =
                TypeOutline { name: format!("{scope}{stem}Kt"), is_open: true, ..TypeOutline::default() };
            let declared = self.declared(Place { file, inside: &inside }, to);
            to.declared_types.push(declared);
        }
    }

    fn named(&self, text: &str, at: &Range<usize>) -> Named {
        Named { name: self.interner.intern(text), span: Span::new(at.start, at.end) }
    }

    fn type_text(&self, of: Option<&TypeUse>, place: Place<'_>) -> Option<Named> {
        let of = of?;
        self.known(of, place).named(of)
    }

    /// What a type stands for where it is used.
    fn known(&self, of: &TypeUse, place: Place<'_>) -> KnownType {
        let find = || {
            let resolved = self.resolver.resolved(of, place);
            resolved.map_or_else(KnownType::default, |resolved| KnownType {
                name: Some(self.interner.intern(&text(&resolved))),
                asks: self.asks(&resolved, place.file.language),
            })
        };
        if !of.arguments.is_empty() {
            return find();
        }
        let inside = std::ptr::from_ref(place.inside) as usize;
        let key = (self.interner.intern(&of.name), of.is_nullable);
        let mut memo = self.memo.0.borrow_mut();
        if memo.inside != inside {
            *memo = InOneType { inside, ..InOneType::default() };
        }
        *memo.known.entry(key).or_insert_with(find)
    }

    fn declared(&self, place: Place<'_>, to: &mut Facts) -> DeclaredType {
        let Place { file, inside } = place;
        let supers: Vec<Option<Named>> =
            inside.supers.iter().map(|above| self.type_text(Some(above), place)).collect();
        let is_open = inside.is_open
            || supers.iter().any(Option::is_none)
            || inside.methods.iter().any(|method| ["__call", "__get"].contains(&method.name.as_str()));
        let start = to.parts.named.len();
        to.parts.named.extend(supers.into_iter().flatten());
        let supers = Many::since(start, &to.parts);
        let start = to.parts.named.len();
        let marks =
            inside.marks.iter().map(|mark| self.named(&self.resolver.full(&mark.name, place), &mark.at));
        to.parts.named.extend(marks);
        let marks = Many::since(start, &to.parts);
        let constructors = self.callables(&inside.constructors, place, to);
        let methods = match self.methods {
            Methods::Whole => self.callables(&inside.methods, place, to),
            Methods::Names => self.named_callables(&inside.methods, to),
        };
        let is_script = file.language == Language::TypeScript;
        let kind = inside.kind;
        DeclaredType {
            source: SourceIndex::OWN,
            name: self.named(&inside.name, &inside.at),
            kind,
            is_abstract: inside.is_abstract || matches!(kind, TypeKind::Interface | TypeKind::Trait),
            is_open,
            is_structural: is_script || file.language == Language::Python && kind == TypeKind::Interface,
            inherits_constructor: matches!(
                file.language,
                Language::Php | Language::TypeScript | Language::Python
            ),
            belongs_to: self.looked_for_in(place).map(|path| self.interner.intern(&path)),
            supers,
            marks,
            constructors,
            methods,
        }
    }

    /// The file that a type is looked for in, where it lies in another one.
    fn looked_for_in(&self, place: Place<'_>) -> Option<String> {
        let Place { file, inside } = place;
        let separator = if file.language == Language::Php { '\\' } else { '.' };
        // What stands in another type lies where that does.
        let own = inside.name.strip_prefix(&inside.scope)?.trim_start_matches(separator);
        if own.contains(separator) || file.language == Language::ClassFile {
            return None;
        }
        let ending = file.path.rsplit_once('.')?.1;
        let expected = self.folders.iter().filter_map(|folder| {
            let rest = inside.name.strip_prefix(&folder.scope)?.strip_prefix(separator)?;
            let mut above =
                std::iter::successors(file.path.rsplit_once('/').map(|(above, _)| above), |above| {
                    above.rsplit_once('/').map(|(above, _)| above)
                });
            let below = above.find(|above| folder.below.is_match(above))?;
            Some(format!("{below}/{}.{ending}", rest.replace(separator, "/")))
        });
        let expected: Vec<String> = expected.collect();
        let first = expected.first()?.clone();
        (!expected.contains(&file.path)).then_some(first)
    }

    fn callables(&self, all: &[Callable], place: Place<'_>, to: &mut Facts) -> Many<facts::Callable> {
        let made: Vec<facts::Callable> = all.iter().map(|one| self.callable(one, place, to)).collect();
        let start = to.parts.callables.len();
        to.parts.callables.extend(made);
        Many::since(start, &to.parts)
    }

    /// What methods are called, and no more.
    fn named_callables(&self, all: &[Callable], to: &mut Facts) -> Many<facts::Callable> {
        let start = to.parts.callables.len();
        to.parts.callables.extend(all.iter().map(|one| facts::Callable {
            name: self.named(&one.name, &one.at),
            parameters: Many::default(),
            returns: None,
            is_static: one.is_static,
            is_chosen: false,
            is_private: one.is_private,
        }));
        Many::since(start, &to.parts)
    }

    fn callable(&self, one: &Callable, place: Place<'_>, to: &mut Facts) -> facts::Callable {
        let parameters: Vec<facts::Parameter> =
            one.parameters.iter().map(|parameter| self.parameter(parameter, place)).collect();
        let start = to.parts.parameters.len();
        to.parts.parameters.extend(parameters);
        facts::Callable {
            name: self.named(&one.name, &one.at),
            parameters: Many::since(start, &to.parts),
            returns: self.type_text(one.returns.as_ref(), place),
            is_static: one.is_static,
            is_chosen: one.marks.iter().any(|mark| self.gives(mark, place) == Some(Gives::Constructor)),
            is_private: one.is_private,
        }
    }

    /// What a parameter of a type asks for; the type has full names.
    fn asks(&self, of: &TypeUse, language: Language) -> Asks {
        let mut asks = Asks { is_optional: of.is_nullable, ..Asks::default() };
        let mut of = of;
        let mut is_all = false;
        // One around the other: a list of what is resolved later.
        for _ in 0..4 {
            match self.wires.of_type(&of.name, language) {
                None => break,
                Some(Means::Plain) => return asks,
                Some(means) => {
                    // Of what comes in pairs and more nothing is known.
                    let element = match of.arguments.as_slice() {
                        [only] => only,
                        // A list of any length of one type.
                        [only, more]
                            if more.name == "..." || language == Language::Python && more.name.is_empty() =>
                        {
                            only
                        }
                        _ => return asks,
                    };
                    is_all |= means == Means::All;
                    asks.is_optional |= means == Means::Optional;
                    asks.is_lazy |= means == Means::Lazy;
                    of = element;
                }
            }
        }
        // Nothing gives one of the values of an enumeration.
        if of.name == "|" || of.name == "*" || of.name.is_empty() || self.resolver.is_enumeration(&of.name) {
            return asks;
        }
        let contract = self.interner.intern(&text(of));
        asks.target = Some(if is_all { Target::All(contract) } else { Target::Contract(contract) });
        asks
    }

    /// What a mark says of what it stands on.
    pub(crate) fn gives(&self, mark: &Mark, place: Place<'_>) -> Option<Gives> {
        // Most houses say nothing of marks, and most code is full of them.
        let is_said = !self.wires.marks.is_empty();
        is_said.then(|| self.wires.of_mark(&self.resolver.full(&mark.name, place))).flatten()
    }

    /// A parameter with what wiring would fill it with.
    pub(crate) fn parameter(&self, one: &Parameter, place: Place<'_>) -> facts::Parameter {
        let known = one.type_use.as_ref().map(|of| self.known(of, place)).unwrap_or_default();
        let mut asks = known.asks;
        if one.is_variadic {
            asks.target = asks.target.map(|target| match target {
                Target::Contract(name) => Target::All(name),
                other => other,
            });
        }
        let mut key = None;
        for mark in &one.marks {
            let Some(gives) = self.gives(mark, place) else { continue };
            let said = text_of_mark(mark, self.resolver, place);
            match (gives, said) {
                (Gives::Key, Some(text)) => key = Some(self.named(&text, &mark.at)),
                (Gives::Setting, Some(text)) => {
                    key = Some(self.named(&text, &mark.at));
                    asks.target = Some(Target::Setting(self.interner.intern(&text)));
                }
                (Gives::Optional, _) => asks.is_optional = true,
                _ => {}
            }
        }
        facts::Parameter {
            name: self.named(&one.name, &one.at),
            type_name: one.type_use.as_ref().and_then(|of| known.named(of)),
            asks: asks.target,
            key,
            is_optional: asks.is_optional || one.is_optional,
            is_lazy: asks.is_lazy,
            is_variadic: one.is_variadic,
        }
    }
}
