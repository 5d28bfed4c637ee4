//! The schemas accept what the readers accept, and nothing else.
#![recursion_limit = "256"]

use corvant_core::name::Interner;
use corvant_core::wording::EditSort;
use corvant_read::native::{self, schema, workspace_file};
use corvant_read::syntax::{ManifestSyntax, NodeId, NodeKind, Tree, json};
use jsonschema::Validator;
use proptest::prelude::*;
use rstest::rstest;
use serde_json::{Value, json};
use std::sync::LazyLock;

static MANIFEST: LazyLock<Validator> =
    LazyLock::new(|| jsonschema::validator_for(&schema::manifest()).unwrap());
static WORKSPACE: LazyLock<Validator> =
    LazyLock::new(|| jsonschema::validator_for(&schema::workspace_file()).unwrap());

/// A good manifest that uses every field there is.
fn manifest() -> Value {
    json!({
        "corvant": 1, "module": "timetable", "about": "x", "uses": ["vehicles"],
        "settings": {
            "a": 90, "b": { "value": "${a}", "stages": { "drill": [1] }, "required": true, "about": "x" }, "c": null
        },
        "contracts": { "C": { "about": "x", "extends": ["B"], "meant-for": "key", "keys": ["k"] }, "D": null },
        "tags": { "t": {
            "about": 1, "contract": "C", "carried-by-all": false, "collected-by": "s", "at-least": 2,
            "attributes": {
                "p": { "about": "x", "kind": "integer", "required": true, "unique": true, "one-of": [1, "a", null] }
            },
        } },
        "services": {
            "s": {
                "about": null, "type": "velmora.S", "offers": ["C"], "key": "k", "default": true,
                "lifetime": "use", "wire": "constructor", "internal": true, "stages": ["drill"], "except": ["night"], "template": false,
                "needs": {
                    "a": { "service": "s", "lazy": true, "optional": false, "via": "setter", "method": "m" },
                    "b": { "contract": "C", "key": "k", "about": "x" },
                    "c": { "tag": "t" }, "d": { "setting": "a" }, "e": { "wrapped": true }, "f": { "all": "C" },
                },
                "tags": ["t", { "t": { "p": 1, "q": "x", "r": true } }, { "t": null }],
            },
            "x": { "alias-of": "s" }, "y": { "like": "s", "built-by": { "service": "s", "method": "m" } },
            "z": { "wraps": "s" }, "w": { "replaces": "s", "needs": {} },
        },
        "choices": { "C": { "default": "s", "keys": { "k": "s" }, "stages": { "drill": { "default": "s", "keys": null } } } },
        "providers": { "p": {
            "about": "x", "type": "velmora.P", "registers": ["s"], "after": [],
            "register": { "needs": { "l": { "service": "s" } } }, "start": { "needs": null },
        } },
        "roster": ["p"],
        "entries": { "e": { "about": "x", "type": "velmora.E", "at": "GET /", "lifetime": "request", "needs": {} } },
        "supplied": { "services": ["h"], "contracts": ["H"], "settings": null, "tags": [] },
        "expect": [{ "contract": "C", "key": "k", "met-by": "s", "type": "velmora.S", "lifetime": "use" }, { "service": "s" }],
        "allow": [{ "rule": "unused-service", "subject": "s", "reason": "x", "until": "2027-04-30" }],
    })
}

/// A good workspace file that uses every field there is.
fn workspace() -> Value {
    json!({
        "workspace": { "members": ["modules/*"], "exclude": ["old"], "disabled": ["crew"] },
        "policy": {
            "same-id": "last", "same-contract": "first", "default-unless-offered": true, "order": ["over/**"],
            "imports-first": true, "stage-required": true, "wire": "constructor", "offers": "super-types",
        },
        "lifetimes": { "order": ["process", "session", "request"], "default": "use" },
        "stages": { "drill": { "a": 1, "b": { "c": { "d": "x" } }, "e": [1, 2] }, "production": null },
        "rules": { "hidden-need": "off", "unused-tag": "error" },
        "roster": { "drill": ["p"], "production": ["p", "q"] },
        "supplied": { "services": ["h"], "contracts": ["H"], "settings": ["x"], "tags": ["t"] },
        "expect": [{ "service": "s", "lifetime": "use" }, { "contract": "C", "key": "k", "met-by": "s", "type": "velmora.S" }],
        "allow": [{ "rule": "unused-service", "subject": "s", "reason": "x", "until": "2027-04-30" }],
        "standards": {
            "provider-files": false, "components": true, "entry-points": true, "activation-files": false,
        },
        "types": [{ "about": "x", "files": ["src/**"], "module": { "path": "(?<module>x)" }, "folders": [{ "below": "src", "scope": "velmora" }] }],
        "wire": {
            "as": [{ "about": "x", "type": "velmora.kit.Every", "means": "all" }],
            "mark": [{ "about": "x", "name": "velmora.kit.Under", "gives": "key" }],
        },
        "reader": [reader(), code(), { "name": "other", "files": ["a"], "syntax": "ini", "module": { "path": "(?<module>x)" }, "like": "house" }],
    })
}

/// A good reader that uses every field there is.
fn reader() -> Value {
    let field = json!({
        "from": "$.a", "key": true, "above": 1, "split": ",", "match": "(x)", "last-part": true, "case": "kebab",
        "form": "{module}.{}", "map": { "yes": "process" }, "absent": "x", "within": "(x)", "between": "/",
    });
    let others = [
        json!({ "any": ["$.a", { "from": "$.b", "case": "camel" }] }),
        json!({ "joined": ["$.a", "$.b"] }),
        json!({ "key-path": true, "absent": "$.x" }),
        json!({ "in-path": "(x)" }),
        json!({ "number": true, "absent": { "file": "folder.yaml", "from": "$.x" } }),
    ];
    let need = json!([{
        "about": "x", "each": "$.n[*]", "nested": "$.part", "value": "$", "service": "$.s", "contract": "$.c", "type": "$.t", "tag": "$.g",
        "setting": "$.v", "all": "$.e", "wrapped": "$.w", "match": ["~(?<service>.+)"], "key": "$.k", "slot": "$.n", "via": "setter", "method": "m", "optional": true, "lazy": "$.l",
    }]);
    let of_constant = json!({ "constant": "x" });
    json!({
        "name": "house", "about": "x", "files": ["**/*.xml"], "syntax": "xml", "comment": "#", "module": of_constant,
        "uses": "$.u",
        "take": [
            {
                "what": "service", "about": "x", "each": "$.x", "skip-keys": "^_", "only-keys": "x", "only-where": "$.t", "marked": "velmora.kit.Part", "wire": "none", "id": field, "type": "$.t", "offers": "$.o", "key": "k",
                "default": true, "lifetime": "$.l", "internal": "$.i", "template": "$.t", "like": "$.m",
                "alias-of": "$.a", "wraps": "$.w", "replaces": "$.r", "stages": "$.s", "except": "$.x", "amends": true, "removed": "$.r",
                "needs": "unknown", "module": "$.m", "merge": true, "built-by": "$.b",
                "method": "m", "need": need,
                "tag": [
                    { "about": "x", "each": "$.t", "name": "$.n", "when-offers": "velmora.kit.Part", "attributes": "$.a" },
                    { "attributes": { "p": "$.p" } },
                ],
            },
            { "what": "supplied", "service": others[0], "contract": others[1], "setting": others[2], "tag-name": "$.t" },
            { "what": "import", "path": others[3] },
            { "what": "contract", "id": "$", "extends": "$.e", "meant-for": "one", "keys": "$.k" },
            { "what": "setting", "id": "$", "value": "$.v", "required": true, "stage": "drill" },
            { "what": "tag", "id": "$", "contract": "C", "carried-by-all": true, "collected-by": "s", "at-least": "2", "attribute": [
                { "about": "x", "each": "$.a", "name": "$.n", "kind": "$.k", "required": true, "unique": "$.u", "one-of": "$.o" },
            ] },
            { "what": "provider", "id": "$", "registers": "$.r", "after": "$.a", "register": need, "start": need },
            { "what": "roster", "provider": "$", "stage": "$.s" },
            { "what": "choice", "contract": "$.c", "service": "$.s" },
            { "what": "entry", "id": "$", "at": others[4] },
            { "what": "expectation", "contract": "C", "met-by": "s" },
        ],
        "value": [{ "about": "x", "match": "~(?<service>.+)" }],
        "closed": true, "ignore": ["$.about"], "strict": true, "trusted": false, "may-be-empty": true, "plain-names": false,
        "local-tags": true, "documents": true, "repeats": "list",
        "say": EditSort::ALL.into_iter().map(|sort| (sort.word().to_owned(), json!("x"))).collect::<serde_json::Map<_, _>>(),
    })
}

/// A good reader of code with the fields that are for code alone.
fn code() -> Value {
    let map = json!({ "a()": "drill", "b()": { "then": "drill", "else": "service" } });
    json!({
        "name": "code", "files": ["**/*.java"], "syntax": "code", "language": "java", "module": "depot",
        "blind": [{ "about": "x", "code": "stock.keep($X)" }],
        "take": [
            {
                "what": "service", "each": { "code": ["stock.keep($ID, $P -> $MAKER)", "stock.keep($ID)"] },
                "within": { "method": "fill", "class-extends": "velmora.kit.Provider" },
                "when": { "code": "only($COND)", "map": map }, "default-unless-offered": true,
                "id": { "from": "$.ID", "full": true }, "provider": "$['@class']",
                "need": [{
                    "code": "$S.take($N)", "inside": "$.MAKER", "same": { "S": "$.P" }, "within": { "method": "fill" },
                    "service": "$.N",
                }],
            },
            {
                "what": "choice", "each": { "code": "stock.give($MAP)", "items": "$.MAP.*" }, "contract": "$.c",
                "service": "$.s", "for": "$.f",
            },
        ],
    })
}

/// What the readers say against a value: troubles, one a line.
fn troubles(value: &Value, is_manifest: bool) -> Vec<String> {
    let text = value.to_string();
    let tree = json::parse(&text).unwrap();
    let interner = Interner::default();
    let facts =
        if is_manifest { native::read(&tree, &interner).1 } else { workspace_file::read(&tree, &interner).1 };
    facts.troubles.iter().map(|trouble| format!("{}: {}", trouble.subject, trouble.message)).collect()
}

#[rstest]
#[case::manifest(&MANIFEST, manifest(), true)]
#[case::workspace(&WORKSPACE, workspace(), false)]
fn what_uses_every_field_is_accepted_by_both(
    #[case] schema: &Validator,
    #[case] value: Value,
    #[case] is_manifest: bool,
) {
    assert_eq!(troubles(&value, is_manifest), [""; 0]);
    let errors: Vec<String> = schema.iter_errors(&value).map(|error| error.to_string()).collect();
    assert_eq!(errors, [""; 0]);
}

/// Every field of the format stands in the good examples, so that each is put to the test.
#[rstest]
#[case::manifest(schema::manifest(), manifest())]
#[case::workspace(schema::workspace_file(), workspace())]
fn the_good_examples_leave_no_field_out(#[case] schema: Value, #[case] example: Value) {
    let written = example.to_string();
    let mut waiting = vec![&schema];
    while let Some(part) = waiting.pop() {
        if let Some(fields) = part.get("properties").and_then(Value::as_object) {
            // Of the rules any two will do.
            let is_rules = fields.contains_key("hidden-need");
            let missing =
                fields.keys().find(|field| !is_rules && !written.contains(&format!("\"{field}\":")));
            assert_eq!(missing, None);
        }
        waiting.extend(part.as_object().into_iter().flat_map(|object| object.values()));
        waiting.extend(part.as_array().into_iter().flatten());
    }
}

/// Something that may stand in place of a value.
fn strange() -> impl Strategy<Value = Value> {
    let plain = prop_oneof![
        Just(Value::Null),
        any::<bool>().prop_map(Value::from),
        (-3_i64..5).prop_map(Value::from),
        Just(json!(1.5)),
        Just(json!(4_294_967_296_u64)),
        "[a-c]{0,2}".prop_map(Value::from),
        prop::sample::select(vec!["key", "setter", "2027-13-01", "2027-02-01", "use", "first", "integer"])
            .prop_map(Value::from),
    ];
    let field = prop::sample::select(vec![
        "service", "contract", "key", "tag", "wrapped", "lazy", "value", "default", "needs", "a", "x",
        "stages", "",
    ]);
    plain.prop_recursive(2, 8, 3, move |inner| {
        prop_oneof![
            prop::collection::vec(inner.clone(), 0..3).prop_map(Value::from),
            prop::collection::btree_map(field.clone().prop_map(str::to_owned), inner, 0..3)
                .prop_map(|map| Value::Object(map.into_iter().collect())),
        ]
    })
}

/// One change to a value: at a place in it a value is put, taken away, or a field is added.
#[derive(Clone, Debug)]
enum Edit {
    Put(Value),
    Take,
    Add(String, Value),
}

fn edits() -> impl Strategy<Value = Vec<(prop::sample::Index, Edit)>> {
    let field = prop::sample::select(vec![
        "service", "contract", "key", "default", "about", "subject", "need", "alias-of", "p",
    ]);
    let edit = prop_oneof![
        strange().prop_map(Edit::Put),
        Just(Edit::Take),
        (field, strange()).prop_map(|(field, value)| Edit::Add(field.to_owned(), value)),
    ];
    prop::collection::vec((any::<prop::sample::Index>(), edit), 1..3)
}

/// The addresses (JSON Pointers) of all that is in a value.
fn addresses(value: &Value) -> Vec<String> {
    let mut all = Vec::new();
    let mut waiting = vec![(String::new(), value)];
    while let Some((address, value)) = waiting.pop() {
        if let Value::Object(fields) = value {
            waiting.extend(fields.iter().map(|(key, value)| (format!("{address}/{key}"), value)));
        } else if let Value::Array(items) = value {
            waiting.extend(items.iter().enumerate().map(|(at, value)| (format!("{address}/{at}"), value)));
        }
        all.push(address);
    }
    all.sort_unstable();
    all
}

fn edited(mut value: Value, edits: Vec<(prop::sample::Index, Edit)>) -> Value {
    for (at, edit) in edits {
        let all = addresses(&value);
        let address = all[at.index(all.len())].clone();
        match edit {
            Edit::Put(new) => *value.pointer_mut(&address).unwrap() = new,
            Edit::Add(field, new) => {
                if let Some(fields) = value.pointer_mut(&address).unwrap().as_object_mut() {
                    fields.insert(field, new);
                }
            }
            Edit::Take => {
                let Some((parent, last)) = address.rsplit_once('/') else { continue };
                match value.pointer_mut(parent).unwrap() {
                    Value::Object(fields) => drop(fields.remove(last)),
                    Value::Array(items) => drop(items.remove(last.parse().unwrap())),
                    _ => {}
                }
            }
        }
    }
    value
}

/// What a schema cannot say.
fn is_beyond_a_schema(troubles: &[String]) -> bool {
    troubles.iter().all(|trouble| {
        let is_of_expression = trouble.contains("expression") || trouble.contains("is no glob");
        trouble.starts_with("lifetimes.default: the default lifetime")
            || trouble.starts_with("reader.")
            || trouble.starts_with("types.") && is_of_expression
    })
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 4_000, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn what_the_schema_of_manifests_accepts_the_reader_accepts(edits in edits()) {
        let value = edited(manifest(), edits);
        // Nothing at all is an empty file, which is no matter of shape.
        prop_assume!(!value.is_null());
        let troubles = troubles(&value, true);
        prop_assert_eq!(MANIFEST.is_valid(&value), troubles.is_empty(), "{:?}\n{}", troubles, value);
    }

    #[test]
    fn what_the_schema_of_workspace_files_accepts_the_reader_accepts(edits in edits()) {
        let value = edited(workspace(), edits);
        prop_assume!(value.is_object());
        let troubles = troubles(&value, false);
        if !troubles.is_empty() && is_beyond_a_schema(&troubles) {
            return Ok(());
        }
        prop_assert_eq!(WORKSPACE.is_valid(&value), troubles.is_empty(), "{:?}\n{}", troubles, value);
    }
}

/// A tree as a JSON value.
fn value_of(tree: &Tree<'_>, node: NodeId) -> Value {
    let text = tree.text(node);
    match tree.kind(node) {
        NodeKind::Null => Value::Null,
        NodeKind::Boolean => (text == "true").into(),
        NodeKind::Integer | NodeKind::Number => serde_json::from_str(text).unwrap(),
        NodeKind::Text => text.into(),
        NodeKind::List => tree.children(node).map(|item| value_of(tree, item)).collect(),
        NodeKind::Map => {
            let fields =
                tree.fields(node).map(|(key, value)| (tree.text(key).to_owned(), value_of(tree, value)));
            Value::Object(fields.collect())
        }
    }
}

#[test]
fn the_schemas_accept_the_demo_in_every_syntax() {
    let demo = concat!(env!("CARGO_MANIFEST_DIR"), "/../corvant/demo");
    let mut seen = Vec::new();
    // Code has no schema.
    let is_described = |file: &ignore::DirEntry| {
        file.path().is_file() && file.path().extension().is_none_or(|of| of != "java" && of != "cs")
    };
    for file in ignore::Walk::new(demo).map(Result::unwrap).filter(is_described) {
        let (name, text) =
            (file.file_name().to_str().unwrap(), std::fs::read_to_string(file.path()).unwrap());
        let syntax = ManifestSyntax::of_manifest(name);
        let tree = syntax.unwrap_or(ManifestSyntax::Toml).parse(&text).unwrap();
        let value = value_of(&tree, tree.root().unwrap());
        let schema: &Validator = if syntax.is_some() { &MANIFEST } else { &WORKSPACE };
        let errors: Vec<String> = schema.iter_errors(&value).map(|error| error.to_string()).collect();
        assert_eq!(errors, [""; 0], "{name}");
        seen.push(syntax);
    }
    for syntax in [Some(ManifestSyntax::Yaml), Some(ManifestSyntax::Json), Some(ManifestSyntax::Toml), None] {
        assert!(seen.contains(&syntax), "{syntax:?}");
    }
}
