//! What open standards alone say: what is installed where, and what it requires of what is installed beside it.

use super::Named;
use super::fields::fields;
use crate::name::Name;
use crate::source::SourceIndex;
use crate::word::words;

fields! {
    /// What readers for open standards say of a service, and no format of a house does.
    #[derive(Clone, Copy, PartialEq, Eq, Default, Debug)]
    pub struct OfStandard {
        /// What it is installed into, for a service that an open standard hands out at run time: a jar, a folder of
        /// distributions. Who asks for it is not seen, so it counts as used; its id and its key are one with others
        /// of the same place only.
        pub installed: Option<Name>,
        /// Where its type must be among [`super::Facts::types`]; `None`: it is not looked for.
        pub type_place: Option<Name>,
        /// Where else its type may be.
        pub type_reach: TypeReach,
    }
}

/// Where the type of a service may be beside the place that it is looked for in.
#[derive(Clone, Copy, PartialEq, Eq, Default, Debug)]
pub enum TypeReach {
    /// Nowhere, but for the places around it if it is a part of something.
    #[default]
    Place,
    /// In any other place, if that is there too.
    AnyPlace,
    /// The same; and the platform itself may have it, if no place has its package.
    PlatformToo,
}

words! {
    /// Kinds of what is installed.
    InstalledKind {
        /// A distribution in a folder of them.
        Distribution "distribution"
        /// A module of a platform, in a jar.
        Module "module"
    }
}

fields! {
    /// Something that is installed.
    #[derive(Clone, Copy, Debug)]
    pub struct Installed {
        /// The file that says so.
        pub source: SourceIndex,
        /// What it is.
        pub kind: InstalledKind,
        /// Its name.
        pub name: Name,
        /// The installation that it is a part of.
        pub place: Name,
    }
}

fields! {
    /// Something that must be installed beside what requires it.
    #[derive(Clone, Copy, Debug)]
    pub struct Requirement {
        /// The file that says so; what requires it is that file's module.
        pub source: SourceIndex,
        /// What it is.
        pub kind: InstalledKind,
        /// Its name.
        pub name: Named,
        /// The installation that it is looked for in.
        pub place: Name,
        /// Whether that is an installation, or something that is still to be installed, of which nobody knows beside
        /// what.
        pub is_installed: bool,
    }
}

fields! {
    /// A type that is there, where all types of a place were listed.
    #[derive(Clone, Copy, Debug)]
    pub struct ListedType {
        /// The file that lists it.
        pub source: SourceIndex,
        /// Its name.
        pub name: Name,
        /// The place.
        pub place: Name,
    }
}
