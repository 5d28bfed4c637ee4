//! What a file of code declares as a tree, for custom readers.

use super::facts::Maker;
use super::outline::{Callable, FieldOutline, Literal, Mark, Parameter, TypeUse, Value};
use super::resolve::{CodeFile, Place};
use super::wires::{Gives, text};
use crate::syntax::{NodeKind, Tree};
use corvant_core::facts::{Target, TypeKind};
use corvant_core::source::Span;
use std::ops::Range;

/// The tree of a file: `{ types: [ { name, short, kind, scope, supers, marks, constructor, methods, fields } ] }`.
/// Of methods and fields only if they are asked for.
pub(crate) fn of<'text>(
    file: &CodeFile,
    maker: Maker<'_>,
    source: &'text str,
    members: Members,
) -> Tree<'text> {
    let mut tree = Tree::new(source);
    tree.open(NodeKind::Map, Span::new(0, source.len()));
    let mut tree = write(tree, file, maker, members, &mut |_, _| {});
    tree.close(source.len() as u32);
    tree
}

/// What else is to be said of what is declared under a name that stands somewhere.
pub(crate) type Further<'f> = &'f mut dyn FnMut(&mut Tree<'_>, &Range<usize>);

/// Writes the types of a file under the key `types` into a map that is open.
pub(crate) fn write<'text>(
    tree: Tree<'text>,
    file: &CodeFile,
    maker: Maker<'_>,
    members: Members,
    further: Further<'_>,
) -> Tree<'text> {
    let whole = 0..tree.source().len();
    let mut writer = Writer { tree, maker, members, further };
    writer.list("types", whole, |writer| {
        for inside in &file.outline.types {
            writer.one_type(Place { file, inside });
        }
    });
    writer.tree
}

/// What of the members of types somebody asks for.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Members {
    pub(crate) methods: bool,
    pub(crate) fields: bool,
}

struct Writer<'text, 'a, 'f> {
    tree: Tree<'text>,
    maker: Maker<'a>,
    members: Members,
    further: Further<'f>,
}

fn span(at: &Range<usize>) -> Span {
    Span::new(at.start, at.end)
}

impl Writer<'_, '_, '_> {
    fn key(&mut self, key: &str, at: &Range<usize>) {
        self.tree.scalar(NodeKind::Text, span(at), key);
    }

    fn text(&mut self, key: &str, text: &str, at: &Range<usize>) {
        self.key(key, at);
        self.tree.scalar(NodeKind::Text, span(at), text);
    }

    fn flag(&mut self, key: &str, is: bool, at: &Range<usize>) {
        self.key(key, at);
        self.tree.scalar(NodeKind::Boolean, span(at), if is { "true" } else { "false" });
    }

    fn map(&mut self, at: Range<usize>, write: impl FnOnce(&mut Self)) {
        self.tree.open(NodeKind::Map, span(&at));
        write(self);
        self.tree.close(at.end as u32);
    }

    fn list(&mut self, key: &str, at: Range<usize>, write: impl FnOnce(&mut Self)) {
        self.key(key, &at);
        self.tree.open(NodeKind::List, span(&at));
        write(self);
        self.tree.close(at.end as u32);
    }

    fn one_type(&mut self, place: Place<'_>) {
        let of = place.inside;
        let at = of.at.clone();
        self.map(at.clone(), |writer| {
            writer.text("name", &of.name, &at);
            writer.text("short", of.name.rsplit(['.', '\\', '#']).next().unwrap_or(&of.name), &at);
            let is_abstract_class = of.kind == TypeKind::Class && of.is_abstract;
            writer.text("kind", if is_abstract_class { "abstract-class" } else { of.kind.word() }, &at);
            writer.text("scope", &of.scope, &at);
            writer.list("supers", at.clone(), |writer| {
                for (name, at) in writer.maker.resolver.ancestors(place) {
                    writer.tree.scalar(NodeKind::Text, span(&at), &name);
                }
            });
            writer.marks(&of.marks, &at, place);
            writer.list("constructor", at.clone(), |writer| {
                let chosen = writer.constructor(&of.constructors, place);
                for parameter in chosen.map(|chosen| chosen.parameters.as_slice()).unwrap_or_default() {
                    writer.parameter(parameter, place);
                }
            });
            writer.list("methods", at.clone(), |writer| {
                let methods = if writer.members.methods { of.methods.as_slice() } else { &[] };
                for method in methods {
                    writer.method(method, place);
                }
            });
            writer.list("fields", at.clone(), |writer| {
                let fields = if writer.members.fields { of.fields.as_slice() } else { &[] };
                for field in fields {
                    writer.field(field, place);
                }
            });
            (writer.further)(&mut writer.tree, &at);
        });
    }

    /// The constructor that is meant: a marked one, else the longest.
    fn constructor<'c>(&self, all: &'c [Callable], place: Place<'_>) -> Option<&'c Callable> {
        let is_chosen = |mark: &Mark| self.maker.gives(mark, place) == Some(Gives::Constructor);
        let marked = all.iter().find(|one| one.marks.iter().any(is_chosen));
        marked.or_else(|| all.iter().rev().max_by_key(|one| one.parameters.len()))
    }

    fn method(&mut self, method: &Callable, place: Place<'_>) {
        let at = method.at.clone();
        self.map(at.clone(), |writer| {
            writer.text("name", &method.name, &at);
            writer.list("parameters", at.clone(), |writer| {
                for parameter in &method.parameters {
                    writer.parameter(parameter, place);
                }
            });
            writer.type_of("returns", method.returns.as_ref(), place);
            writer.flag("static", method.is_static, &at);
            writer.marks(&method.marks, &at, place);
            (writer.further)(&mut writer.tree, &at);
        });
    }

    fn parameter(&mut self, parameter: &Parameter, place: Place<'_>) {
        let at = parameter.at.clone();
        self.map(at, |writer| writer.asked(parameter, place));
    }

    /// What is asked for by name and type: with what wiring would fill it with, so that takes need no tables of their own.
    fn asked(&mut self, parameter: &Parameter, place: Place<'_>) {
        let at = parameter.at.clone();
        let made = self.maker.parameter(parameter, place);
        let of_type = parameter.type_use.as_ref().map_or(&at, |of| &of.at).clone();
        let interner = self.maker.interner;
        self.text("name", &parameter.name, &at);
        if let Some(named) = made.type_name {
            self.text("type", &interner.text(named.name), &of_type);
        }
        match made.asks {
            Some(Target::Contract(name)) => self.text("contract", &interner.text(name), &of_type),
            Some(Target::All(name)) => self.text("all", &interner.text(name), &of_type),
            _ => {}
        }
        self.flag("lazy", made.is_lazy, &of_type);
        self.flag("optional", made.is_optional, &at);
        self.marks(&parameter.marks, &at, place);
    }

    fn field(&mut self, field: &FieldOutline, place: Place<'_>) {
        let FieldOutline { name, at, type_use, marks, value } = field.clone();
        let asked = Parameter { name, at: at.clone(), type_use, marks, ..Parameter::default() };
        self.map(at, |writer| {
            writer.asked(&asked, place);
            if let Some(literal) = &value {
                writer.key("value", &literal.at);
                writer.literal(literal, place);
            }
        });
    }

    fn type_of(&mut self, key: &str, of: Option<&TypeUse>, place: Place<'_>) {
        if let Some(of) = of.and_then(|of| self.maker.resolver.resolved(of, place)) {
            let written = text(&of);
            self.text(key, &written, &of.at);
        }
    }

    fn marks(&mut self, marks: &[Mark], at: &Range<usize>, place: Place<'_>) {
        self.list("marks", at.clone(), |writer| {
            for mark in marks {
                writer.mark(mark, place);
            }
        });
    }

    fn mark(&mut self, mark: &Mark, place: Place<'_>) {
        let at = mark.at.clone();
        self.map(at.clone(), |writer| {
            let full = writer.maker.resolver.full(&mark.name, place);
            writer.text("name", &full, &at);
            writer.list("args", at.clone(), |writer| {
                for literal in &mark.arguments {
                    writer.literal(literal, place);
                }
            });
            writer.key("named", &at);
            writer.map(at, |writer| {
                for (name, literal) in &mark.named {
                    writer.key(name, &literal.at);
                    writer.literal(literal, place);
                }
            });
        });
    }

    /// A literal; a constant as what it is worth, if that is written as a text.
    fn literal(&mut self, literal: &Literal, place: Place<'_>) {
        let at = span(&literal.at);
        match &literal.value {
            Value::Text(text) => _ = self.tree.scalar(NodeKind::Text, at, text),
            Value::Number(text) => _ = self.tree.scalar(NodeKind::Number, at, text),
            Value::Flag(is) => {
                _ = self.tree.scalar(NodeKind::Boolean, at, if *is { "true" } else { "false" });
            }
            Value::Type(name) => {
                let full = self.maker.resolver.full(name, place);
                self.tree.scalar(NodeKind::Text, at, &full);
            }
            Value::Name(name) => {
                let text = self.maker.resolver.constant(name, place);
                let last = || name.rsplit('.').next().unwrap_or(name);
                self.tree.scalar(NodeKind::Text, at, text.unwrap_or_else(last));
            }
            Value::List(all) => {
                self.tree.open(NodeKind::List, at);
                for one in all {
                    self.literal(one, place);
                }
                self.tree.close(at.end);
            }
        }
    }
}
