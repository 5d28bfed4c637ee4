//! What code declares: types, what they are built with, and what they can do.

use super::fields::fields;
use super::{Many, Named, Target};
use crate::name::Name;
use crate::source::{SourceIndex, Span};
use crate::word::words;

words! {
    /// What a type is.
    #[derive(Default)]
    TypeKind {
        #[default]
        Class "class"
        Interface "interface"
        Trait "trait"
        Record "record"
        Enum "enum"
        /// One that there is once.
        Object "object"
        /// Another name for a type.
        Alias "alias"
        /// What marks are.
        Mark "mark"
    }
}

fields! {
    /// A type that source code declares, or a class file is.
    #[derive(Clone, Copy, Debug)]
    pub struct DeclaredType {
        /// The file.
        pub source: SourceIndex,
        /// Its full name, in the language's own writing.
        pub name: Named,
        /// What it is.
        pub kind: TypeKind,
        /// Whether none can be made of it itself.
        pub is_abstract: bool,
        /// Whether it may have members and super types beside those that are known.
        pub is_open: bool,
        /// Whether what has its members is of it, whatever it says.
        pub is_structural: bool,
        /// The file that it is looked for in, where that is another one.
        pub belongs_to: Option<Name>,
        /// Whether it is built with what its super type is built with, where it says nothing of that itself.
        pub inherits_constructor: bool,
        /// The types that it says it is one of, by their full names with their arguments.
        pub supers: Many<Named>,
        /// The marks that it carries, by their full names.
        pub marks: Many<Named>,
        /// What it is built with.
        pub constructors: Many<Callable>,
        /// Its methods.
        pub methods: Many<Callable>,
    }
}

fields! {
    /// A constructor or method.
    #[derive(Clone, Copy, Debug)]
    pub struct Callable {
        /// Its name.
        pub name: Named,
        /// Its parameters, in order.
        pub parameters: Many<Parameter>,
        /// What it returns, as a full name with arguments.
        pub returns: Option<Named>,
        /// Whether it belongs to the type and not to what is made of it.
        pub is_static: bool,
        /// Whether a mark says that this of several constructors is meant.
        pub is_chosen: bool,
        /// Whether only the type itself can call it.
        pub is_private: bool,
    }
}

fields! {
    /// A parameter of one.
    #[derive(Clone, Copy, Debug)]
    pub struct Parameter {
        /// Its name; without text: it is not known.
        pub name: Named,
        /// Its type, as a full name with arguments; `None`: it is not known.
        pub type_name: Option<Named>,
        /// What wiring would fill it with; `None`: a plain value, or nobody knows.
        pub asks: Option<Target>,
        /// The key that a mark gives, or the setting.
        pub key: Option<Named>,
        /// Whether it may be left out.
        pub is_optional: bool,
        /// Whether what fills it is resolved on first use.
        pub is_lazy: bool,
        /// Whether it takes any number of values.
        pub is_variadic: bool,
    }
}

fields! {
    /// A place in code where something is registered or looked up under a name that is known only once it runs.
    #[derive(Clone, Copy, Debug)]
    pub struct Computed {
        /// The file.
        pub source: SourceIndex,
        /// The reader that found it.
        pub reader: Name,
        /// Where it is.
        pub at: Span,
        /// What stands around it and may be meant.
        pub words: Many<Named>,
    }
}

fields! {
    /// A mark that a reader takes types by: what carries it elsewhere is not found.
    #[derive(Clone, Copy, Debug)]
    pub struct ScannedMark {
        /// The file that the mark was looked for in.
        pub source: SourceIndex,
        /// The mark.
        pub mark: Name,
    }
}
