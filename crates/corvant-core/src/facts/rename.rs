//! Giving all names in facts the ones that they have after interners were merged.

use super::fields::plain;
use super::{
    Facts, Header, InstalledKind, Many, MeantFor, Parts, Scalar, SourceKind, SuppliedBy, SuppliedKind,
    Target, TroubleKind, TypeKind, TypeReach, Via,
};
use crate::finding::{Fix, Severity};
use crate::name::{Name, Renaming};
use crate::source::{SourceIndex, Span};

/// What has names in it, or may have.
pub(crate) trait Rename {
    /// Gives every name in it the one that it has now.
    fn rename(&mut self, names: &Renaming);
}

impl Rename for Name {
    fn rename(&mut self, names: &Renaming) {
        *self = names.of(*self);
    }
}

impl Rename for Target {
    fn rename(&mut self, names: &Renaming) {
        match self {
            Self::Service(name)
            | Self::Contract(name)
            | Self::All(name)
            | Self::Tag(name)
            | Self::Setting(name) => {
                name.rename(names);
            }
            Self::Wrapped => {}
        }
    }
}

impl<T: Rename> Rename for Option<T> {
    fn rename(&mut self, names: &Renaming) {
        if let Some(thing) = self {
            thing.rename(names);
        }
    }
}

impl<T: Rename> Rename for Vec<T> {
    fn rename(&mut self, names: &Renaming) {
        for thing in self {
            thing.rename(names);
        }
    }
}

/// A range stays what it is: what it is a range of is renamed where it stands.
impl<T> Rename for Many<T> {
    fn rename(&mut self, _: &Renaming) {}
}

plain! {
    bool, u32, String, &'static str, Span, Via, Scalar, SuppliedKind, TroubleKind, SourceKind, MeantFor,
    InstalledKind, TypeReach, TypeKind, Severity
}

impl Rename for SuppliedBy {
    fn rename(&mut self, names: &Renaming) {
        match self {
            Self::Platform | Self::Pattern | Self::UnseenCode | Self::OutsideIndex => {}
            Self::RegisteringClass(class) => class.rename(names),
        }
    }
}

impl Rename for SourceIndex {
    fn rename(&mut self, _: &Renaming) {}
}

impl<T: Rename, U: Rename> Rename for (T, U) {
    fn rename(&mut self, names: &Renaming) {
        self.0.rename(names);
        self.1.rename(names);
    }
}

/// Fixes hold texts.
impl Rename for Fix {
    fn rename(&mut self, _: &Renaming) {}
}

macro_rules! whole {
    ($($thing:ident { $($field:ident)* })*) => {
        $(impl Rename for $thing {
            fn rename(&mut self, names: &Renaming) {
                let Self { $($field),* } = self;
                $($field.rename(names);)*
            }
        })*
    };
}

// What is of one file or of all of them, not put behind others.
whole! {
    Header { module uses_given kind reader left_over trusted rank worked_out }
    Facts {
        uses disabled stages settings contracts tags services removed choices idle_choices providers rosters entries supplied expectations
        allowances troubles imports types declared_types doubtful_scopes scanned_marks computed installed requirements derived parts
    }
    Parts { named needs taggings attributes attribute_rules stage_values callables parameters }
}
