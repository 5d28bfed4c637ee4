//! The fields of what files say, gone through one by one: when names become those of all files, and when the facts of
//! one file are put behind those of others. A struct that is declared with `fields!` has both for all its fields, so that
//! none can be forgotten.

/// Declares a struct whose fields are renamed and moved one by one.
macro_rules! fields {
    (
        $(#[$of:meta])*
        pub struct $name:ident {
            $($(#[$one:meta])* pub $field:ident: $type:ty,)*
        }
    ) => {
        $(#[$of])*
        pub struct $name {
            $($(#[$one])* pub $field: $type,)*
        }

        impl $crate::facts::rename::Rename for $name {
            fn rename(&mut self, names: &$crate::name::Renaming) {
                $(self.$field.rename(names);)*
            }
        }

        impl $crate::facts::append::Moved for $name {
            fn moved(
                self,
                source: $crate::source::SourceIndex,
                shift: &$crate::facts::many::Shift,
            ) -> Self {
                Self { $($field: self.$field.moved(source, shift),)* }
            }
        }
    };
}

/// What has neither names nor ranges in it, and knows no file.
macro_rules! plain {
    ($($type:ty),* $(,)?) => {
        $(impl $crate::facts::rename::Rename for $type {
            fn rename(&mut self, _: &$crate::name::Renaming) {}
        }

        impl $crate::facts::append::Moved for $type {
            fn moved(self, _: $crate::source::SourceIndex, _: &$crate::facts::many::Shift) -> Self {
                self
            }
        })*
    };
}

pub(super) use fields;
pub(super) use plain;
