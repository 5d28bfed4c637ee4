//! Giving all names in facts the ones that they have after interners were merged.

use super::{
    Allowance, Attribute, AttributeRule, Choice, Contract, Derived, Entry, Expectation, Facts, Header, Many,
    MeantFor, Named, Need, Parts, Provider, Roster, Scalar, Service, Setting, SourceKind, StageValue,
    Supplied, SuppliedKind, Tag, Tagging, Target, Trouble, TroubleKind, Unread, Via,
};
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

impl<T: Rename> Rename for (SourceIndex, T) {
    fn rename(&mut self, names: &Renaming) {
        self.1.rename(names);
    }
}

/// A range stays what it is: what it is a range of is renamed where it stands.
impl<T> Rename for Many<T> {
    fn rename(&mut self, _: &Renaming) {}
}

macro_rules! nameless {
    ($($thing:ty),*) => {
        $(impl Rename for $thing {
            fn rename(&mut self, _: &Renaming) {}
        })*
    };
}

nameless! {
    bool, u32, String, &'static str, SourceIndex, Span, Via, Scalar, SuppliedKind, TroubleKind, SourceKind, (MeantFor, Span)
}

/// Renames field by field. A field that is left out does not compile.
macro_rules! fields {
    ($($thing:ident { $($field:ident)* })*) => {
        $(impl Rename for $thing {
            fn rename(&mut self, names: &Renaming) {
                let Self { $($field),* } = self;
                $($field.rename(names);)*
            }
        })*
    };
}

fields! {
    Named { name span }
    Header { module uses_given kind reader left_over }
    Facts {
        uses disabled stages settings contracts tags services choices providers rosters entries supplied expectations
        allowances troubles types derived parts
    }
    Parts { named needs taggings attributes attribute_rules stage_values }
    Service {
        source id type_name offers key is_default lifetime internal needs needs_given taggings stages template like
        alias_of wraps replaces installed type_checked
    }
    Need { source slot target span key via method optional lazy }
    Tagging { source tag attributes }
    Attribute { attribute value kind }
    Tag { source tag contract carried_by_all collected_by at_least attributes }
    AttributeRule { attribute kind required unique one_of }
    Contract { source contract extends meant_for keys }
    Setting { source setting value references stages required }
    StageValue { stage value references }
    Choice { source contract key service stage }
    Provider { source id type_name registers register start after }
    Roster { source stage is_whole providers }
    Entry { source id type_name at lifetime needs is_look_up }
    Supplied { source kind name by_code }
    Expectation { source service contract key met_by type_name lifetime }
    Allowance { source rule subject reason until }
    Derived { source span name }
    Unread { defines mentions opaque }
}

impl Rename for Trouble {
    fn rename(&mut self, names: &Renaming) {
        self.unread.rename(names);
    }
}
