//! JSON documents, one module an answer: what programs are given, and the JSON Schema made from the same types.
//!
//! Every document says the version of the program, and its own kind with the version of its format. A field that a
//! type has is in the output and in its schema; there is no second list of them.

pub mod accounts;
pub mod comparison;
pub mod graph;
pub mod impact;
pub mod mentions;
pub mod order;
pub mod report;
pub mod rules;
pub mod sheet;
pub mod terms;
pub mod why;

use crate::out::Out;
use corvant_core::source;
use corvant_core::wiring::Wiring;
use corvant_core::word::Word;
use schemars::generate::SchemaSettings;
use schemars::{JsonSchema, Schema, SchemaGenerator, json_schema};
use serde::ser::SerializeSeq;
use serde::{Serialize, Serializer};
use serde_json::Value;
use std::borrow::Cow;
use std::io::{self, Write};

/// The version of the program, as every document says it.
const PROGRAM: &str = env!("CARGO_PKG_VERSION");

/// The JSON Schema (draft 2020-12) of a document: what it is first, then its fields.
pub fn schema<T: JsonSchema>() -> Value {
    let settings = SchemaSettings::draft2020_12().for_serialize();
    let schema = settings.into_generator().into_root_schema_for::<T>();
    let fields = schema.as_object().into_iter().flatten();
    let (about, rest): (Vec<_>, Vec<_>) = fields.partition(|(field, value)| {
        matches!(field.as_str(), "$schema" | "title" | "description") && value.is_string()
    });
    Value::Object(
        about.into_iter().chain(rest).map(|(field, value)| (field.clone(), value.clone())).collect(),
    )
}

/// Writes a document, element by element as it is made.
pub(crate) fn write(document: &impl Serialize, out: &mut Out<'_>) -> io::Result<()> {
    serde_json::to_writer_pretty(out.json(), document)?;
    out.write_all(b"\n")
}

/// The version of a document's format.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Version<const NUMBER: u32>;

impl<const NUMBER: u32> Serialize for Version<NUMBER> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_u32(NUMBER)
    }
}

impl<const NUMBER: u32> JsonSchema for Version<NUMBER> {
    fn schema_name() -> Cow<'static, str> {
        format!("Version{NUMBER}").into()
    }

    fn inline_schema() -> bool {
        true
    }

    fn json_schema(_: &mut SchemaGenerator) -> Schema {
        json_schema!({ "const": NUMBER })
    }
}

/// A value of a closed set, written as its word.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Worded<T>(pub(crate) T);

impl<T: Word> Serialize for Worded<T> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(self.0.word())
    }
}

impl<T: Word> JsonSchema for Worded<T> {
    fn schema_name() -> Cow<'static, str> {
        "Word".into()
    }

    fn inline_schema() -> bool {
        true
    }

    fn json_schema(_: &mut SchemaGenerator) -> Schema {
        json_schema!({ "enum": T::WORDS })
    }
}

/// A list whose elements are made when they are written: a report of a million findings takes no more memory than one
/// of ten.
pub(crate) struct Each<'a, S, T> {
    of: &'a [S],
    make: Box<dyn Fn(&'a S) -> T + 'a>,
}

impl<'a, S, T> Each<'a, S, T> {
    pub(crate) fn new(of: &'a [S], make: impl Fn(&'a S) -> T + 'a) -> Self {
        Self { of, make: Box::new(make) }
    }
}

impl<S, T: Serialize> Serialize for Each<'_, S, T> {
    fn serialize<Z: Serializer>(&self, serializer: Z) -> Result<Z::Ok, Z::Error> {
        let mut list = serializer.serialize_seq(Some(self.of.len()))?;
        for one in self.of {
            list.serialize_element(&(self.make)(one))?;
        }
        list.end()
    }
}

impl<S, T: JsonSchema> JsonSchema for Each<'_, S, T> {
    fn schema_name() -> Cow<'static, str> {
        Vec::<T>::schema_name()
    }

    fn inline_schema() -> bool {
        true
    }

    fn json_schema(generator: &mut SchemaGenerator) -> Schema {
        Vec::<T>::json_schema(generator)
    }
}

/// Where something is written. Lines and columns count from 1, columns in characters; the end is exclusive.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "place", deny_unknown_fields)]
pub(crate) struct Place<'a> {
    /// The file, relative to the root, with `/`.
    file: &'a str,
    #[schemars(range(min = 1))]
    line: u32,
    #[schemars(range(min = 1))]
    column: u32,
    #[schemars(range(min = 1))]
    end_line: u32,
    #[schemars(range(min = 1))]
    end_column: u32,
}

impl<'a> Place<'a> {
    pub(crate) fn new(wiring: &'a Wiring, place: &source::Place) -> Self {
        let source = &wiring.sources[place.source.index()];
        let (start, end) = (source.position(place.span.start), source.position(place.span.end));
        Self {
            file: &source.path,
            line: start.line,
            column: start.column,
            end_line: end.line,
            end_column: end.column,
        }
    }
}
