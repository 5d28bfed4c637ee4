//! JSON Schemas (draft 2020-12) of manifests and of the workspace file, made from the format as it is read.
//!
//! A schema accepts what the reader accepts, with exceptions that no schema can tell: keys that stand twice,
//! whole numbers written as fractions (`1.0`), globs that are none, a default lifetime outside its order; and of
//! custom readers paths and expressions that are none, where a field's text comes from, and which fields go with
//! which kind of take.

use super::format::{self, Map, Shape};
use super::workspace_file::SEVERITIES;
use corvant_core::rules::TEXTS;
use serde_json::{Value, json};

/// The dialect that the schemas are written in.
pub const DIALECT: &str = "https://json-schema.org/draft/2020-12/schema";

/// The schema of a manifest.
pub fn manifest() -> Value {
    document("A manifest of Corvant's own format, version 1", &format::MANIFEST)
}

/// The schema of a workspace file.
pub fn workspace_file() -> Value {
    document("Corvant's workspace file, corvant.toml", &format::WORKSPACE_FILE)
}

fn document(title: &str, root: &Map) -> Value {
    let mut schema = json!({ "$schema": DIALECT, "title": title });
    let of_root = map(root);
    // A file is one map; only what stands in it may be left empty.
    schema["type"] = "object".into();
    for (key, value) in of_root.as_object().into_iter().flatten().filter(|(key, _)| *key != "type") {
        schema[key] = value.clone();
    }
    schema["$defs"] = json!({
        "values": {
            "type": ["object", "null"],
            "propertyNames": { "minLength": 1 },
            "additionalProperties": { "anyOf": [{ "$ref": "#/$defs/values" }, { "not": { "type": "object" } }] },
        },
    });
    schema
}

fn map(map: &Map) -> Value {
    let properties = map.fields.iter().map(|field| {
        let mut schema = shape(&field.shape);
        schema["description"] = field.about.into();
        (field.name.to_owned(), schema)
    });
    let mut schema = json!({
        "type": or_nothing("object", map.may_be_empty),
        "additionalProperties": false,
        "properties": properties.collect::<serde_json::Map<_, _>>(),
    });
    if !map.required.is_empty() {
        schema["required"] = json!(map.required);
    }
    if !map.one_of.is_empty() {
        schema["oneOf"] = map.one_of.iter().map(|field| json!({ "required": [field] })).collect();
    }
    if let Some((field, beside)) = map.goes_with {
        schema["dependentRequired"] = json!({ field: [beside] });
    }
    schema
}

/// A type, or nothing at all where that stands for an empty list or map.
fn or_nothing(kind: &str, may_be_empty: bool) -> Value {
    if may_be_empty { json!([kind, "null"]) } else { json!(kind) }
}

fn shape(shape: &Shape) -> Value {
    const PLAIN: [&str; 3] = ["string", "number", "boolean"];
    match shape {
        Shape::Version => json!({ "type": "integer", "const": 1 }),
        Shape::About => json!({ "not": { "type": ["array", "object"] } }),
        Shape::Name => json!({ "type": "string", "minLength": 1 }),
        Shape::Day => {
            json!({ "type": "string", "pattern": "^[0-9]{4}-(0[1-9]|1[0-2])-(0[1-9]|[12][0-9]|3[01])$" })
        }
        Shape::Word(words) => json!({ "enum": words }),
        Shape::Flag => json!({ "type": "boolean" }),
        Shape::True => json!({ "const": true }),
        Shape::Count => json!({ "type": "integer", "minimum": 0, "maximum": u32::MAX }),
        Shape::Plain => json!({ "type": PLAIN }),
        Shape::Value => json!({ "not": { "type": "object" } }),
        Shape::Names => list(&self::shape(&Shape::Name)),
        Shape::NamesBut(word) => {
            let item = json!({ "type": "string", "minLength": 1, "not": { "const": word } });
            json!({ "type": ["array", "null"], "items": item, "uniqueItems": true })
        }
        Shape::Plains => list(&json!({ "not": { "type": ["array", "object"] } })),
        Shape::Map(fields) => map(fields),
        Shape::Each(value) => json!({
            "type": ["object", "null"],
            "propertyNames": { "minLength": 1 },
            "additionalProperties": self::shape(value),
        }),
        Shape::List(item) => list(&self::shape(item)),
        Shape::One(value) => json!({
            "type": "object",
            "propertyNames": { "minLength": 1 },
            "additionalProperties": self::shape(value),
            "minProperties": 1,
            "maxProperties": 1,
        }),
        Shape::Either(shapes) => json!({ "anyOf": shapes.iter().map(self::shape).collect::<Vec<_>>() }),
        Shape::Values => json!({ "$ref": "#/$defs/values" }),
        Shape::Severities => severities(),
    }
}

fn list(items: &Value) -> Value {
    json!({ "type": ["array", "null"], "items": items })
}

fn severities() -> Value {
    let words = SEVERITIES.map(|(word, _)| word);
    let rules = TEXTS.iter().map(|rule| {
        let description = format!("{} [{}]", rule.summary, rule.severity.word());
        (rule.name.to_owned(), json!({ "enum": words, "description": description }))
    });
    json!({
        "type": ["object", "null"],
        "additionalProperties": false,
        "properties": rules.collect::<serde_json::Map<_, _>>(),
    })
}
