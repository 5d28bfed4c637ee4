//! Corvant's own manifest format, version 1: a tree to facts.
//!
//! One function for each section of a manifest. What has the wrong shape is noted and passed over; the rest
//! of the file still counts.

pub(crate) mod format;
pub(crate) mod reader;
pub mod schema;
mod sections;
mod service;
pub mod workspace_file;

use crate::syntax::{NodeKind, Tree};
use corvant_core::facts::{Facts, Header};
use corvant_core::name::Interner;
use reader::Reader;
use time::{Date, Month};

/// The facts of one manifest; what is wrong with its shape is among them, as troubles.
pub fn read(tree: &Tree<'_>, interner: &Interner) -> (Header, Facts) {
    let mut reader = Reader::new(tree, interner, "a manifest");
    let mut header = Header::default();
    let mut has_version = false;
    let Some(root) = tree.root() else { return (header, reader.facts) };
    reader.fields(root, &format::MANIFEST, |reader, field, value| {
        match field {
            "corvant" => {
                has_version = true;
                reader.version(value);
            }
            "module" => header.module = reader.name(value),
            "about" => reader.about(value),
            "uses" => {
                header.uses_given = true;
                reader.uses(value);
            }
            "settings" => reader.settings(value),
            "contracts" => reader.contracts(value),
            "tags" => reader.tags(value),
            "services" => reader.services(value),
            "choices" => reader.choices(value),
            "providers" => reader.providers(value),
            "roster" => reader.roster(value),
            "entries" => reader.entries_section(value),
            "supplied" => reader.supplied(value),
            "expect" => reader.expectations(value),
            "allow" => reader.allowances(value),
            _ => return false,
        }
        true
    });
    if tree.kind(root) == NodeKind::Map {
        if !has_version {
            let message = "the file does not say which version of the format it is written in";
            reader.missing_field("corvant", message, "begin the file with `corvant: 1`");
        }
        if header.module.is_none() && !reader.facts.troubles.iter().any(|trouble| trouble.subject == "module")
        {
            let message = "the file does not say which module it belongs to";
            reader.missing_field("module", message, "add `module: NAME` below `corvant: 1`");
        }
    }
    (header, reader.facts)
}

/// Whether a text is a day as the format writes it, `YYYY-MM-DD`, and there is that day.
pub fn is_day(text: &str) -> bool {
    let number = |part: &str, digits: usize| {
        let is_number = part.len() == digits && part.bytes().all(|byte| byte.is_ascii_digit());
        part.parse::<u16>().ok().filter(|_| is_number)
    };
    let parts: Vec<&str> = text.split('-').collect();
    let [year, month, day] = parts.as_slice() else { return false };
    let (Some(year), Some(month), Some(day)) = (number(year, 4), number(month, 2), number(day, 2)) else {
        return false;
    };
    let month = Month::try_from(month as u8);
    month.is_ok_and(|month| Date::from_calendar_date(year.into(), month, day as u8).is_ok())
}

#[cfg(test)]
mod tests;
