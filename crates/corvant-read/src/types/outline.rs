//! What a file of code declares, as it is written there: names are yet to be made full.

use corvant_core::facts::TypeKind;
use foldhash::HashMap;
use serde::de::{Deserializer, Error};
use serde::{Deserialize, Serialize, Serializer};
use std::cell::Cell;
use std::ops::Range;

/// What one file declares.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub(crate) struct Outline {
    /// The scopes that are named: packages, namespaces, the file itself where that is one.
    pub(crate) scopes: Vec<String>,
    pub(crate) imports: Imports,
    pub(crate) types: Vec<TypeOutline>,
    /// Constants outside of types, by full name, with their texts.
    pub(crate) constants: Vec<(String, String)>,
}

/// What short names stand for in a file.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub(crate) struct Imports {
    /// By short name the full one; in PHP short names are in lower case.
    pub(crate) named: HashMap<String, String>,
    /// Scopes whose names are all known.
    pub(crate) all_of: Vec<String>,
    /// Those that hold for all files.
    pub(crate) everywhere: Vec<String>,
    /// What is handed on under a name: that name, and the full name. An empty one: all of a scope.
    pub(crate) handed_on: Vec<(String, String)>,
}

/// How many scopes a file sees all names of, at most.
const SCOPES: usize = 1_000;

impl Imports {
    /// Adds a scope whose names are all seen.
    pub(crate) fn see_all_of(&mut self, scope: String) {
        if self.all_of.len() < SCOPES {
            self.all_of.push(scope);
        }
    }
}

/// A type that is declared.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub(crate) struct TypeOutline {
    /// Its full name, in the language's own writing.
    pub(crate) name: String,
    /// Where its own name stands.
    pub(crate) at: Range<usize>,
    /// What it stands in: a package or namespace, of which the types around it are no part.
    pub(crate) scope: String,
    #[serde(serialize_with = "kind_to", deserialize_with = "kind_from")]
    pub(crate) kind: TypeKind,
    pub(crate) is_abstract: bool,
    /// Whether it may have members that are not written here: it answers to whatever name, or is declared in parts.
    pub(crate) is_open: bool,
    /// The names that stand for any type inside it.
    pub(crate) type_parameters: Vec<String>,
    pub(crate) supers: Vec<TypeUse>,
    pub(crate) marks: Vec<Mark>,
    pub(crate) constructors: Vec<Callable>,
    pub(crate) methods: Vec<Callable>,
    pub(crate) fields: Vec<FieldOutline>,
}

/// A type as it is written where it is used.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub(crate) struct TypeUse {
    /// Its name; empty: what it is is not known. `[]` is a list of its argument, `|` one of its arguments.
    pub(crate) name: String,
    #[serde(deserialize_with = "nested")]
    pub(crate) arguments: Vec<TypeUse>,
    /// Whether it may be nothing.
    pub(crate) is_nullable: bool,
    pub(crate) at: Range<usize>,
}

/// A constructor, or a method.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub(crate) struct Callable {
    pub(crate) name: String,
    pub(crate) at: Range<usize>,
    pub(crate) parameters: Vec<Parameter>,
    pub(crate) returns: Option<TypeUse>,
    pub(crate) is_static: bool,
    pub(crate) is_abstract: bool,
    pub(crate) is_private: bool,
    pub(crate) marks: Vec<Mark>,
}

/// A parameter of one.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub(crate) struct Parameter {
    /// Its name; empty: it has none.
    pub(crate) name: String,
    pub(crate) at: Range<usize>,
    pub(crate) type_use: Option<TypeUse>,
    pub(crate) is_optional: bool,
    pub(crate) is_variadic: bool,
    pub(crate) marks: Vec<Mark>,
}

/// A field, a property or a constant.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub(crate) struct FieldOutline {
    pub(crate) name: String,
    pub(crate) at: Range<usize>,
    pub(crate) type_use: Option<TypeUse>,
    pub(crate) marks: Vec<Mark>,
    /// What it is worth, where that is written as a literal.
    pub(crate) value: Option<Literal>,
}

/// What is attached to a declaration: an annotation, an attribute, a decorator.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub(crate) struct Mark {
    pub(crate) name: String,
    pub(crate) at: Range<usize>,
    pub(crate) arguments: Vec<Literal>,
    pub(crate) named: Vec<(String, Literal)>,
}

/// What a value is written as.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) enum Value {
    Text(String),
    Number(String),
    Flag(bool),
    /// A constant, or a member of an enumeration.
    Name(String),
    /// A type itself.
    Type(String),
    List(#[serde(deserialize_with = "nested")] Vec<Literal>),
}

/// A value and where it is written.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) struct Literal {
    pub(crate) value: Value,
    pub(crate) at: Range<usize>,
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "so it is called by what is derived")]
fn kind_to<S: Serializer>(kind: &TypeKind, to: S) -> Result<S::Ok, S::Error> {
    to.serialize_str(kind.word())
}

fn kind_from<'de, D: Deserializer<'de>>(from: D) -> Result<TypeKind, D::Error> {
    let word = <&str>::deserialize(from)?;
    TypeKind::of(word).ok_or_else(|| D::Error::custom("no such kind"))
}

thread_local! {
    static DEPTH: Cell<usize> = const { Cell::new(0) };
}

/// How deep what is read back may stand in one another: nothing that is written does deeper.
const DEEPEST: usize = 64;

/// A list whose elements hold such lists, up to a depth: what is read back may be anybody's.
fn nested<'de, D: Deserializer<'de>, T: Deserialize<'de>>(from: D) -> Result<Vec<T>, D::Error> {
    let depth = DEPTH.get();
    if depth >= DEEPEST {
        return Err(D::Error::custom("too deep"));
    }
    DEPTH.set(depth + 1);
    let list = Vec::deserialize(from);
    DEPTH.set(depth);
    list
}
