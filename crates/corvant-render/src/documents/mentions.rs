//! Places where a name is written, version 1.

use super::{Each, PROGRAM, Place, Version, Worded};
use crate::out::Out;
use corvant_core::answers::find::{Act, Mention, NamedThing};
use corvant_core::source;
use corvant_core::wiring::Wiring;
use schemars::JsonSchema;
use serde::Serialize;
use std::io;

/// Writes an object for each place.
pub fn write(mentions: &[Mention], wiring: &Wiring, out: &mut Out<'_>) -> io::Result<()> {
    let mentions = Each::new(mentions, |mention| MentionDocument::new(wiring, mention));
    super::write(&MentionsDocument { corvant: PROGRAM, find: Version, mentions }, out)
}

/// Every place where a name is written.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "find", deny_unknown_fields)]
pub struct MentionsDocument<'a> {
    /// The version of the program.
    corvant: &'static str,
    /// The version of this format.
    find: Version<1>,
    /// In the order of the files.
    mentions: Each<'a, Mention, MentionDocument<'a>>,
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "mention", deny_unknown_fields)]
struct MentionDocument<'a> {
    name: &'a str,
    /// What it is the name of there.
    kind: Worded<NamedThing>,
    /// What is done with it there.
    act: Worded<Act>,
    /// Whose definition it stands in, if that is something else.
    by: Option<&'a str>,
    #[serde(flatten)]
    place: Place<'a>,
}

impl<'a> MentionDocument<'a> {
    fn new(wiring: &'a Wiring, mention: &Mention) -> Self {
        Self {
            name: wiring.text(mention.name),
            kind: Worded(mention.kind),
            act: Worded(mention.act),
            by: mention.by.map(|by| wiring.text(by)),
            place: Place::new(wiring, &source::Place::new(mention.source, mention.span, "")),
        }
    }
}
