//! The format itself, as data: which map has which fields, and what each of them takes.
//!
//! The reader takes from here which fields there are; [`super::schema`] makes the JSON Schema of it.

use crate::standards;
use crate::types::{Language, wires};
use corvant_core::facts::{FieldOf, MeantFor, ServiceField, Via, WIRES};
use corvant_core::wiring::SUPER_TYPES;
use corvant_core::word::Word;
use corvant_core::wording::EditSort;

/// The format version this program reads.
pub(crate) const VERSION: &str = "1";

/// A map with a fixed set of fields.
#[derive(Debug)]
pub(crate) struct Map {
    pub(crate) fields: &'static [Field],
    /// Fields that must be there.
    pub(crate) required: &'static [&'static str],
    /// Fields of which exactly one must be there; empty: no such rule.
    pub(crate) one_of: &'static [&'static str],
    /// A field that makes sense beside another only: the two of them.
    pub(crate) goes_with: Option<(&'static str, &'static str)>,
    /// Whether nothing at all stands for a map without fields.
    pub(crate) may_be_empty: bool,
}

impl Map {
    const fn new(fields: &'static [Field]) -> Self {
        Self { fields, required: &[], one_of: &[], goes_with: None, may_be_empty: true }
    }

    /// The names of the fields.
    pub(crate) fn names(&self) -> Vec<&'static str> {
        self.fields.iter().map(|field| field.name).collect()
    }
}

/// A field of a map.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Field {
    pub(crate) name: &'static str,
    pub(crate) shape: Shape,
    /// What it says, for editors to show.
    pub(crate) about: &'static str,
}

const fn field(name: &'static str, shape: Shape, about: &'static str) -> Field {
    Field { name, shape, about }
}

/// What a field takes.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Shape {
    /// The version number of the format.
    Version,
    /// A text for people; any plain value will do.
    About,
    /// A text that is not empty.
    Name,
    /// A day, as YYYY-MM-DD.
    Day,
    /// One of a closed set of words.
    Word(&'static [&'static str]),
    /// True or false.
    Flag,
    /// True.
    True,
    /// A number of things.
    Count,
    /// A plain value.
    Plain,
    /// A plain value or a list: what a setting can be.
    Value,
    /// A list of names.
    Names,
    /// A list of names, each once, and none of them the word given.
    NamesBut(&'static str),
    /// A list of plain values.
    Plains,
    /// A map with fixed fields.
    Map(&'static Map),
    /// A map from names of the writer's own to one shape.
    Each(&'static Shape),
    /// A list of one shape.
    List(&'static Shape),
    /// One name with its value: a map of one field.
    One(&'static Shape),
    /// Either of several shapes.
    Either(&'static [Shape]),
    /// Values by name; in a map of maps, names are joined with dots.
    Values,
    /// A severity for each rule.
    Severities,
}

const ABOUT: Field = field("about", Shape::About, "A line for people");

/// A whole manifest.
pub(crate) const MANIFEST: Map = Map {
    required: &["corvant", "module"],
    may_be_empty: false,
    ..Map::new(&[
        field("corvant", Shape::Version, "The version of the format"),
        field("module", Shape::Name, "The module that the file belongs to"),
        ABOUT,
        field("uses", Shape::Names, "Modules it may depend on; absent: not checked"),
        field("settings", Shape::Each(&SETTING_SHAPE), "Named configuration values"),
        field("contracts", Shape::Each(&Shape::Map(&CONTRACT)), "What is said of contracts"),
        field("tags", Shape::Each(&Shape::Map(&TAG)), "What is said of tags"),
        field("services", Shape::Each(&Shape::Map(&SERVICE)), "Service definitions, by id"),
        field("choices", Shape::Each(&Shape::Map(&CHOICE)), "Which service a contract gets"),
        field("providers", Shape::Each(&Shape::Map(&PROVIDER)), "Start-up code that registers services"),
        field("roster", ROSTER, "The providers that the application really loads, in order"),
        field("entries", Shape::Each(&Shape::Map(&ENTRY)), "What uses the wiring from outside"),
        field("supplied", Shape::Map(&SUPPLIED), "What the host platform brings"),
        field("expect", Shape::List(&Shape::Map(&EXPECTATION)), "Wiring that must hold"),
        field("allow", Shape::List(&Shape::Map(&ALLOWANCE)), "Findings that are accepted"),
    ])
};
const SETTING_SHAPE: Shape = Shape::Either(&[Shape::Value, Shape::Map(&SETTING)]);
/// The list for all stages, or one for each.
const ROSTER: Shape = Shape::Either(&[Shape::Names, Shape::Each(&Shape::Names)]);
/// A setting in its long form.
pub(crate) const SETTING: Map = Map::new(&[
    field("value", Shape::Value, "Its value where a stage does not give another"),
    field("stages", Shape::Each(&Shape::Value), "Values that differ by stage"),
    field("required", Shape::Flag, "Whether some stage or workspace must give a value"),
    ABOUT,
]);
/// A contract.
pub(crate) const CONTRACT: Map = Map::new(&[
    ABOUT,
    field("extends", Shape::Names, "Contracts that are offered with this one"),
    field("meant-for", Shape::Word(MEANT_FOR), "How it is meant to be consumed"),
    field("keys", Shape::Names, "The closed list of keys, where there is one"),
]);
/// How a contract is meant to be consumed.
pub(crate) const MEANT_FOR: &[&str] = MeantFor::WORDS;
/// A tag declaration.
pub(crate) const TAG: Map = Map::new(&[
    ABOUT,
    field("contract", Shape::Name, "What every carrier must offer"),
    field("carried-by-all", Shape::Flag, "Whether every service that offers the contract must carry it"),
    field("collected-by", Shape::Name, "The service that collects it, if not through a need on the tag"),
    field("at-least", Shape::Count, "How many must carry it"),
    field("attributes", Shape::Each(&Shape::Map(&ATTRIBUTE)), "Its attributes; absent: not checked"),
]);
/// An attribute in a tag declaration.
pub(crate) const ATTRIBUTE: Map = Map::new(&[
    ABOUT,
    field("kind", Shape::Word(&["text", "integer", "number", "boolean"]), "The kind its value must have"),
    field("required", Shape::Flag, "Whether every carrier must give it"),
    field("unique", Shape::Flag, "Whether no two carriers may give the same value"),
    field("one-of", Shape::Plains, "The values allowed"),
]);
/// A service.
pub(crate) const SERVICE: Map = Map::new(&SERVICE_FIELDS);
const SERVICE_FIELDS: [Field; 4 + ServiceField::ALL.len()] = {
    let own = [
        ABOUT,
        field("needs", NEEDS, "What it needs: slot to target"),
        field("tags", Shape::List(&Shape::Either(&[Shape::Name, TAGGING])), "The tags it carries"),
        field("built-by", Shape::Map(&BUILT_BY), "The factory that builds it"),
    ];
    let mut fields = joined(own);
    let mut at = 0;
    while at < ServiceField::ALL.len() {
        let ServiceField { name, about, of, .. } = ServiceField::ALL[at];
        let shape = match of {
            FieldOf::Name(_) => Shape::Name,
            FieldOf::Word(words, _) => Shape::Word(words),
            FieldOf::Names(_) => Shape::Names,
            FieldOf::Flag(_) => Shape::Flag,
        };
        fields[4 + at] = field(name, shape, about);
        at += 1;
    }
    fields
};

/// The first fields of a longer list; the others are yet to be said.
const fn joined<const FIRST: usize, const ALL: usize>(first: [Field; FIRST]) -> [Field; ALL] {
    let mut fields = [const { ABOUT }; ALL];
    let mut at = 0;
    while at < FIRST {
        fields[at] = first[at];
        at += 1;
    }
    fields
}
const NEEDS: Shape = Shape::Each(&Shape::Map(&NEED));
/// A tag on a service with its attributes.
const TAGGING: Shape = Shape::One(&Shape::Each(&Shape::Plain));
/// A need.
pub(crate) const NEED: Map = Map {
    one_of: &["service", "contract", "all", "tag", "setting", "wrapped"],
    goes_with: Some(("key", "contract")),
    may_be_empty: false,
    ..Map::new(&[
        field("service", Shape::Name, "A service, by id"),
        field("contract", Shape::Name, "Whatever service offers this contract"),
        field("key", Shape::Name, "The key that tells apart who offers the contract"),
        field("all", Shape::Name, "All services that offer this contract"),
        field("tag", Shape::Name, "All services that carry this tag"),
        field("setting", Shape::Name, "A configuration value"),
        field("wrapped", Shape::True, "The service that this one wraps"),
        field("optional", Shape::Flag, "Whether it may be absent"),
        field("lazy", Shape::Flag, "Whether it is resolved on first use, not while building"),
        field("via", Shape::Word(VIA), "How it is met"),
        field("method", Shape::Name, "The setter or factory method"),
        ABOUT,
    ])
};
/// How a need is met.
pub(crate) const VIA: &[&str] = Via::WORDS;
/// A factory.
pub(crate) const BUILT_BY: Map = Map {
    required: &["service"],
    ..Map::new(&[
        field("service", Shape::Name, "The service that builds it"),
        field("method", Shape::Name, "The method of that service"),
    ])
};
/// A choice.
pub(crate) const CHOICE: Map = Map::new(&[
    CHOSEN,
    CHOSEN_BY_KEY,
    field("stages", Shape::Each(&Shape::Map(&STAGE_CHOICE)), "Choices that differ by stage"),
]);
/// A choice in one stage.
pub(crate) const STAGE_CHOICE: Map = Map::new(&[CHOSEN, CHOSEN_BY_KEY]);
const CHOSEN: Field = field("default", Shape::Name, "The service for needs without a key");
const CHOSEN_BY_KEY: Field = field("keys", Shape::Each(&Shape::Name), "The service for each key");
/// A provider.
pub(crate) const PROVIDER: Map = Map::new(&[
    ABOUT,
    field("type", Shape::Name, "Its type"),
    field("registers", Shape::Names, "What it registers; absent: all services of its module"),
    field("register", Shape::Map(&PHASE), "What it uses while registering"),
    field("start", Shape::Map(&PHASE), "What it uses after all have registered"),
    field("after", Shape::Names, "Providers that must have run before"),
]);
/// A phase of a provider.
pub(crate) const PHASE: Map = Map::new(&[field("needs", NEEDS, "What it needs: slot to target")]);
/// An entry.
pub(crate) const ENTRY: Map = Map::new(&[
    ABOUT,
    field("type", Shape::Name, "Its type"),
    field("at", Shape::Name, "How it is reached, in words of your own"),
    field("lifetime", Shape::Name, "How long it lives; absent: not checked"),
    field("needs", NEEDS, "What it needs: slot to target"),
]);
/// What the host platform brings.
pub(crate) const SUPPLIED: Map = Map::new(&[
    field("services", Shape::Names, "Services, by id"),
    field("contracts", Shape::Names, "Contracts"),
    field("settings", Shape::Names, "Settings"),
    field("tags", Shape::Names, "Tags that it collects"),
]);
/// An expectation.
pub(crate) const EXPECTATION: Map = Map {
    one_of: &["contract", "service"],
    may_be_empty: false,
    ..Map::new(&[
        field("contract", Shape::Name, "The contract it speaks of"),
        field("service", Shape::Name, "The service it speaks of"),
        field("key", Shape::Name, "The key of the contract"),
        field("met-by", Shape::Name, "The service that must meet it"),
        field("type", Shape::Name, "The type it must be built from"),
        field("lifetime", Shape::Name, "How long it must live"),
    ])
};
/// An allowance.
pub(crate) const ALLOWANCE: Map = Map {
    required: &["rule", "subject"],
    may_be_empty: false,
    ..Map::new(&[
        field("rule", Shape::Name, "The rule of the finding"),
        field("subject", Shape::Name, "The subject of the finding"),
        field("reason", Shape::Name, "Why it is accepted"),
        field("until", Shape::Day, "The last day it is accepted"),
    ])
};

/// A workspace file.
pub(crate) const WORKSPACE_FILE: Map = Map::new(&[
    field("workspace", Shape::Map(&WORKSPACE), "What belongs to the workspace"),
    field("policy", Shape::Map(&POLICY), "Decisions for all modules"),
    field("lifetimes", Shape::Map(&LIFETIMES), "How long things live"),
    field("stages", Shape::Each(&Shape::Values), "For each stage the settings' values in it"),
    field("rules", Shape::Severities, "A severity for each rule"),
    field("roster", ROSTER, "The providers that the application really loads, in order"),
    field("supplied", Shape::Map(&SUPPLIED), "What the host platform brings"),
    field("expect", Shape::List(&Shape::Map(&EXPECTATION)), "Wiring that must hold"),
    field("allow", Shape::List(&Shape::Map(&ALLOWANCE)), "Findings that are accepted"),
    field("standards", Shape::Map(&STANDARDS), "Open standards whose files are not read"),
    field(
        "types",
        Shape::List(&Shape::Map(&TYPES)),
        "Code whose types are held against what definitions name",
    ),
    field("wire", Shape::Map(&WIRE), "What types and marks of constructors' parameters stand for"),
    field("reader", Shape::List(&Shape::Map(&READER)), "Readers for formats of the house"),
]);
/// What types and marks stand for where parameters are filled by types.
pub(crate) const WIRE: Map = Map::new(&[
    field("as", Shape::List(&Shape::Map(&WIRE_AS)), "Types around another, and what they stand for"),
    field("mark", Shape::List(&Shape::Map(&WIRE_MARK)), "Marks, and what they say of what they stand on"),
]);
/// What a type stands for.
pub(crate) const WIRE_AS: Map = Map {
    required: &["type", "means"],
    may_be_empty: false,
    ..Map::new(&[
        field("type", Shape::Name, "The type, by its full name without arguments"),
        field(
            "means",
            Shape::Word(MEANS),
            "All that offer its argument, one or nothing, one on first use, or a plain value",
        ),
        ABOUT,
    ])
};
/// What a mark says.
pub(crate) const WIRE_MARK: Map = Map {
    required: &["name", "gives"],
    may_be_empty: false,
    ..Map::new(&[
        field("name", Shape::Name, "The mark, by its full name"),
        field(
            "gives",
            Shape::Word(GIVES),
            "The key or setting of a parameter, that it may be absent, or the constructor that is meant",
        ),
        ABOUT,
    ])
};
/// The words for what types stand for.
pub(crate) const MEANS: &[&str] = &words_of(wires::MEANS);
/// The words for what marks say.
pub(crate) const GIVES: &[&str] = &words_of(wires::GIVES);

const fn words_of<T: Copy, const COUNT: usize>(all: [(&'static str, T); COUNT]) -> [&'static str; COUNT] {
    let mut words = [""; COUNT];
    let mut at = 0;
    while at < COUNT {
        words[at] = all[at].0;
        at += 1;
    }
    words
}

/// Code that declares types.
pub(crate) const TYPES: Map = Map {
    required: &["files"],
    may_be_empty: false,
    ..Map::new(&[
        ABOUT,
        field("files", Shape::Names, "The files, as globs; their endings say what they are written in"),
        field("module", Shape::Map(&MODULE_PATH), "Which module a file belongs to"),
        field(
            "folders",
            Shape::List(&Shape::Map(&SCOPE_FOLDER)),
            "Where the types of a scope are looked for",
        ),
    ])
};
/// Where types are looked for by their names.
pub(crate) const SCOPE_FOLDER: Map = Map {
    required: &["below", "scope"],
    may_be_empty: false,
    ..Map::new(&[
        field("below", Shape::Name, "The folder, as a glob"),
        field("scope", Shape::Name, "The package or namespace that it stands for"),
    ])
};
/// Which open standards are read; all are, unless it says otherwise.
pub(crate) const STANDARDS: Map = Map::new(&STANDARD_FLAGS);
const STANDARD_FLAGS: [Field; standards::NAMES.len()] = {
    let mut flags = [const { field("", Shape::Flag, "") }; standards::NAMES.len()];
    let mut at = 0;
    while at < flags.len() {
        (flags[at].name, flags[at].about) = standards::NAMES[at];
        at += 1;
    }
    flags
};
/// A reader for a format of the house.
pub(crate) const READER: Map = Map {
    required: &["name", "files", "syntax", "module"],
    may_be_empty: false,
    ..Map::new(&[
        field("name", Shape::Name, "What it is called in reports"),
        ABOUT,
        field("files", Shape::Names, "The files it is for, as globs"),
        field("syntax", Shape::Word(SYNTAXES), "What the files are written in"),
        field("language", Shape::Word(LANGUAGES), "The language, of code"),
        field("comment", Shape::Name, "What comments begin with, in records and lines"),
        field("module", MODULE, "Which module a file belongs to"),
        field("uses", FIELD, "The modules that it may depend on; absent: not checked"),
        field("take", Shape::List(&Shape::Map(&TAKE)), "What to take from each file"),
        field(
            "value",
            Shape::List(&Shape::Map(&VALUE)),
            "How values refer to things; the first match counts",
        ),
        field(
            "blind",
            Shape::List(&Shape::Map(&BLIND)),
            "Code that registers or looks up something that cannot be seen: a blind spot where nothing takes it",
        ),
        field("closed", Shape::Flag, "Whether what the reader does not look at is a mistake in the file"),
        field("ignore", Shape::Names, "Paths of what may be left over all the same"),
        field(
            "strict",
            Shape::Flag,
            "Whether a value that only looks like a reference is a mistake in the file",
        ),
        field(
            "trusted",
            Shape::Flag,
            "Whether the files are the host's: what they define counts and is not judged",
        ),
        field("may-be-empty", Shape::Flag, "Whether there may be nothing in a file; look-ups always may"),
        field("like", Shape::Name, "Another reader, whose takes, values and words count here too"),
        field(
            "local-tags",
            Shape::Flag,
            "Whether a value of YAML with a tag of its own is a map with the tag as key",
        ),
        field(
            "repeats",
            Shape::Word(&["list"]),
            "What a key that stands several times in one map is: a list of its values",
        ),
        field(
            "documents",
            Shape::Flag,
            "Whether there may be several documents in a file of YAML, each an item of `$`",
        ),
        field("plain-names", Shape::Flag, "Whether names in XML are taken without their prefixes"),
        field(
            "say",
            Shape::Map(&SAY),
            "What edits are called in the house, for fixes; {} is what they are about",
        ),
    ])
};
/// What edits are called in the house.
pub(crate) const SAY: Map = Map::new(&SAY_FIELDS);
const SAY_FIELDS: [Field; EditSort::ALL.len()] = {
    let mut fields =
        [const { field("", Shape::Name, "The house's words for this edit") }; EditSort::ALL.len()];
    let mut at = 0;
    while at < fields.len() {
        fields[at].name = EditSort::ALL[at].word();
        at += 1;
    }
    fields
};
/// The syntaxes that readers can be custom for.
pub(crate) const SYNTAXES: &[&str] =
    &["yaml", "json", "toml", "xml", "ini", "properties", "records", "lines", "types", "code"];
/// The languages that code can be read in.
pub(crate) const LANGUAGES: &[&str] = &words_of(Language::WRITTEN);
const PIECES: Shape = Shape::Either(&[Shape::Name, Shape::Names]);
/// A piece of code with holes, or several.
const CODE: Field = field(
    "code",
    PIECES,
    "A piece of the language with holes, $NAME for one piece and $$$NAME for several; of a list the first that matches counts",
);
/// Items that pieces of code are.
pub(crate) const CODE_EACH: Map = Map {
    required: &["code"],
    may_be_empty: false,
    ..Map::new(&[
        CODE,
        field(
            "items",
            Shape::Name,
            "The path of the items in it, of a list or map that a hole holds; absent: it is one itself",
        ),
    ])
};
/// Where items stand in code.
pub(crate) const CODE_PLACE: Map = Map::new(&[
    field("method", Shape::Name, "The function around it, or one of the same type that this calls"),
    field("class-extends", Shape::Name, "A type that the type around it is one of"),
]);
/// Which conditions around items are stages.
pub(crate) const WHEN: Map = Map {
    required: &["map"],
    may_be_empty: false,
    ..Map::new(&[
        field("code", PIECES, "Forms of conditions beside those of the language, each with a hole $COND"),
        field(
            "map",
            Shape::Each(&Shape::Either(&[Shape::Name, Shape::Map(&WHEN_STAGES)])),
            "By condition the stage in which it holds",
        ),
    ])
};
/// The stages in which a condition holds, and does not.
pub(crate) const WHEN_STAGES: Map = Map {
    required: &["then"],
    may_be_empty: false,
    ..Map::new(&[
        field("then", Shape::Name, "The stage in which it holds"),
        field("else", Shape::Name, "The stage in which it does not; absent: every other"),
    ])
};
/// Code that is a blind spot where nothing takes it.
pub(crate) const BLIND: Map = Map { required: &["code"], may_be_empty: false, ..Map::new(&[ABOUT, CODE]) };
const MODULE: Shape = Shape::Either(&[Shape::Name, Shape::Map(&MODULE_PATH), Shape::Map(&FIELD_MAP)]);
/// A module in the path of a file.
pub(crate) const MODULE_PATH: Map = Map {
    required: &["path"],
    may_be_empty: false,
    ..Map::new(&[field("path", Shape::Name, "An expression over the file's path, with a group `module`")])
};
/// A text of an item: a path that begins with `$`, a constant, or more.
const FIELD: Shape = Shape::Either(&[Shape::Name, Shape::Flag, Shape::Map(&FIELD_MAP)]);
const FROM: Field = field("from", Shape::Name, "The path of the text, starting from the item");
const KEY: Field = field("key", Shape::Flag, "Take the key that it stands under, not the text itself");
const CONSTANT: Field = field("constant", Shape::Name, "The text itself");
const MATCH: Field =
    field("match", Shape::Name, "An expression; its first group, or the whole match, is what counts");
const LAST_PART: Field =
    field("last-part", Shape::Flag, "Take what stands behind the last separator of a type");
const CASE: Field = field("case", Shape::Word(CASES), "Write the words of the text in this case");
const FORM: Field = field(
    "form",
    Shape::Name,
    "The text around it: {} is the text, {module} the module, {file} the file, {id} what is taken",
);
const FULL: Field = field("full", Shape::Flag, "Whether it is a type in code, to be named in full");
/// One of several fields, the first of which that finds anything counts.
const ANY: Shape = Shape::Either(&[Shape::Name, Shape::Map(&FIELD_PART)]);
/// A field that looks in one place.
pub(crate) const FIELD_PART: Map =
    Map { may_be_empty: false, ..Map::new(&[FROM, KEY, CONSTANT, MATCH, LAST_PART, CASE, FORM, FULL]) };
/// A text of an item in its long form.
pub(crate) const FIELD_MAP: Map = Map {
    may_be_empty: false,
    ..Map::new(&[
        FROM,
        KEY,
        CONSTANT,
        field("above", Shape::Count, "Start so many maps above the item, lists not counted"),
        field("any", Shape::List(&ANY), "Paths or fields, the first of which that finds anything counts"),
        field("joined", Shape::Names, "Paths, whose texts make one name together"),
        field(
            "in-path",
            Shape::Name,
            "An expression over the path of the file; its first group is what counts",
        ),
        field("key-path", Shape::Flag, "Take the keys that lead from the root to the item, as one name"),
        field(
            "between",
            Shape::Plain,
            "What stands between the parts of a name that is made of several; absent: a dot",
        ),
        field(
            "within",
            Shape::Name,
            "An expression; its first group is what the text is split and looked through in",
        ),
        field("split", Shape::Name, "What stands between several texts in one"),
        MATCH,
        LAST_PART,
        CASE,
        FORM,
        FULL,
        field("map", Shape::Each(&Shape::Name), "Other words for it"),
        field("number", Shape::Flag, "Take which of its list or map the item is, from 1"),
        field(
            "absent",
            Shape::Either(&[Shape::Name, Shape::Map(&IN_FOLDER)]),
            "What counts where there is none: a text, a path from the root of the file, or what a file says for its folder",
        ),
    ])
};
/// What a file says for its folder and all below it.
pub(crate) const IN_FOLDER: Map = Map {
    required: &["file", "from"],
    may_be_empty: false,
    ..Map::new(&[
        field("file", Shape::Name, "The name of the file; that of the nearest folder counts"),
        field("from", Shape::Name, "The path of the text in it"),
    ])
};
/// The cases that names can be written in.
pub(crate) const CASES: &[&str] =
    &["lower", "upper", "camel", "pascal", "kebab", "snake", "dot", "first-lower"];
/// What to take from each file.
pub(crate) const TAKE: Map = Map { required: &["what"], may_be_empty: false, ..Map::new(&TAKE_FIELDS) };
const TAKE_FIELDS: [Field; 43 + ServiceField::ALL.len()] = {
    let own = [
        field("what", Shape::Word(WHATS), "What each item is"),
        ABOUT,
        field(
            "each",
            Shape::Either(&[Shape::Name, Shape::Map(&CODE_EACH)]),
            "The path of the items, or the code that they are; absent: the whole file",
        ),
        field("within", Shape::Map(&CODE_PLACE), "Where in code the items stand"),
        field("when", Shape::Map(&WHEN), "Which conditions around code are stages"),
        field("skip-keys", Shape::Name, "An expression: items under such keys are none"),
        field("only-keys", Shape::Name, "An expression: items stand under such keys alone"),
        field("only-where", FIELD, "What items must have: where it finds nothing, there is none"),
        field(
            "marked",
            Shape::Name,
            "The mark that items carry, by its full name, where they are types or methods",
        ),
        field("id", FIELD, "Its id or name"),
        field("built-by", FIELD, "The service that builds it"),
        field("method", FIELD, "The method of that service"),
        field("extends", FIELD, "Contracts that are offered with this one"),
        field("meant-for", FIELD, "How the contract is meant to be consumed: one, key or all"),
        field("keys", FIELD, "The closed list of keys"),
        field("value", FIELD, "The value of a setting"),
        field("required", FIELD, "Whether some stage must give a value"),
        field("stage", FIELD, "The stage that it holds in"),
        field("contract", FIELD, "The contract it speaks of"),
        field("service", FIELD, "The service it speaks of"),
        field("setting", FIELD, "The setting that the host brings"),
        field(
            "path",
            FIELD,
            "The path of a file that must be there, from the file's folder, or from the root with a slash before it",
        ),
        field("tag-name", FIELD, "The tag that the host collects"),
        field("met-by", FIELD, "The service that must meet the contract"),
        field("carried-by-all", FIELD, "Whether every service that offers the contract must carry the tag"),
        field("collected-by", FIELD, "The service that collects the tag"),
        field("at-least", FIELD, "How many must carry the tag"),
        field("registers", FIELD, "What the provider registers"),
        field("after", FIELD, "Providers that must have run before"),
        field(
            "provider",
            FIELD,
            "A provider on the roster; of a service in code the provider that registers it",
        ),
        field("for", FIELD, "The only service that the choice is for, by its id or its type"),
        field(
            "default-unless-offered",
            Shape::Flag,
            "Whether the items are registered only where nothing else offers the same",
        ),
        field("at", FIELD, "How the entry is reached"),
        field("module", FIELD, "The module that it belongs to; absent: that of the file"),
        field(
            "merge",
            Shape::Flag,
            "Whether the items belong to what has their id in the same file, and say more of it",
        ),
        field(
            "amends",
            FIELD,
            "Whether it takes over from what is defined under its id elsewhere what it does not say, and stands in its place",
        ),
        field("removed", FIELD, "Whether it takes the definitions of its id away, in its stages"),
        field("needs", FIELD, "`unknown`, if nobody can know what it needs beside what is taken"),
        field("need", NEED_TAKES, "What it needs"),
        field("register", NEED_TAKES, "What a provider uses while registering"),
        field("start", NEED_TAKES, "What a provider uses after all have registered"),
        field("tag", Shape::List(&Shape::Map(&TAG_TAKE)), "The tags it carries"),
        field(
            "attribute",
            Shape::List(&Shape::Map(&ATTRIBUTE_TAKE)),
            "What is said of the attributes of a tag",
        ),
    ];
    let first = own.len();
    let mut fields = joined(own);
    let mut at = 0;
    while at < ServiceField::ALL.len() {
        let ServiceField { name, about, .. } = ServiceField::ALL[at];
        fields[first + at] = field(name, FIELD, about);
        at += 1;
    }
    fields
};
/// What items can be.
pub(crate) const WHATS: &[&str] = &[
    "service",
    "contract",
    "setting",
    "tag",
    "provider",
    "roster",
    "choice",
    "entry",
    "lookup",
    "expectation",
    "supplied",
    "import",
];
const NEED_TAKES: Shape = Shape::List(&Shape::Map(&NEED_TAKE));
/// Needs of an item.
pub(crate) const NEED_TAKE: Map = Map::new(&[
    ABOUT,
    field("each", Shape::Name, "The path of the needs, starting from the item; absent: the item"),
    field("code", PIECES, "The code in the item that the needs are"),
    field("inside", Shape::Name, "The hole of the item that they stand in, as a path: $.MAKER"),
    field("same", Shape::Each(&Shape::Name), "By hole of theirs the hole of the item that holds the same"),
    field("within", Shape::Map(&CODE_PLACE), "Where in code they stand"),
    field(
        "nested",
        Shape::Name,
        "The path of definitions inside the value, which are services called after their holder and slot",
    ),
    field("value", FIELD, "A value, in which references are looked for"),
    field("service", FIELD, "A service, by id"),
    field("contract", FIELD, "A contract"),
    field("type", FIELD, "A type, needed as a contract"),
    field("tag", FIELD, "A tag"),
    field("setting", FIELD, "A setting"),
    field("all", FIELD, "A contract, of which all that offer it are needed"),
    field("wrapped", FIELD, "Whether it is what the item wraps"),
    field("match", Shape::Names, "Expressions for these values, in place of those of the reader"),
    field("key", FIELD, "The key of the contract"),
    field("slot", FIELD, "The slot; absent: the key or the number of the value"),
    field("via", FIELD, "How it is met"),
    field("method", FIELD, "The setter or factory method"),
    field("optional", FIELD, "Whether it may be absent"),
    field("lazy", FIELD, "Whether it is resolved on first use"),
]);
/// What is said of the attributes of a tag.
pub(crate) const ATTRIBUTE_TAKE: Map = Map {
    required: &["name"],
    may_be_empty: false,
    ..Map::new(&[
        ABOUT,
        field("each", Shape::Name, "The path of the attributes, starting from the item; absent: the item"),
        field("name", FIELD, "What it is called"),
        field("kind", FIELD, "The kind its value must have: text, integer, number or boolean"),
        field("required", FIELD, "Whether every carrier must give it"),
        field("unique", FIELD, "Whether no two carriers may give the same value"),
        field("one-of", FIELD, "The values that are allowed; absent: any"),
    ])
};
/// Tags on an item.
pub(crate) const TAG_TAKE: Map = Map::new(&[
    ABOUT,
    field("each", Shape::Name, "The path of the tags, starting from the item; absent: the item"),
    field("name", FIELD, "The tag's name; absent: the text itself"),
    field("when-offers", Shape::Name, "The type that a type must be one of to carry the tag"),
    field("attributes", ATTRIBUTES, "The path of a map of attributes, or each with a field of its own"),
]);
const ATTRIBUTES: Shape = Shape::Either(&[Shape::Name, Shape::Each(&FIELD)]);
/// A way of writing references.
pub(crate) const VALUE: Map = Map {
    required: &["match"],
    may_be_empty: false,
    ..Map::new(&[
        ABOUT,
        field(
            "match",
            Shape::Name,
            "An expression whose named groups say what is meant: service, contract, type, tag, setting, all, wrapped, or plain for what is no reference; key, slot, optional, lazy",
        ),
    ])
};
/// What belongs to a workspace.
pub(crate) const WORKSPACE: Map = Map::new(&[
    field("members", Shape::Names, "Folders to look for manifests in, as globs; absent: all"),
    field("exclude", Shape::Names, "Folders and files to leave out, as globs"),
    field("disabled", Shape::Names, "Modules that are not deployed"),
]);
/// Decisions for all modules.
pub(crate) const POLICY: Map = Map::new(&[
    field("same-id", Shape::Word(&["forbid", "first", "last"]), "What a second definition of one id means"),
    field(
        "same-contract",
        Shape::Word(&["forbid", "first", "last"]),
        "What a second offer of one contract means, where nothing else settles between them",
    ),
    field(
        "default-unless-offered",
        Shape::Flag,
        "Whether what is marked `default` offers its contracts only where nothing else does",
    ),
    field("wire", Shape::Word(WIRES), "What of every service is filled by types where no need does"),
    field("offers", Shape::Word(&[SUPER_TYPES]), "What every service offers beside what it says"),
    field(
        "order",
        Shape::Names,
        "Files, as globs, and modules, in the order in which they are read; the others are before all of them",
    ),
    field(
        "imports-first",
        Shape::Flag,
        "Whether what a file imports is read before it, in the order in which it is named there",
    ),
    field(
        "stage-required",
        Shape::Flag,
        "Whether some stage is always chosen: then nothing is audited with none",
    ),
]);
/// How long things live.
pub(crate) const LIFETIMES: Map = Map::new(&[
    field("order", Shape::NamesBut(corvant_core::wiring::USE), "Shared lifetimes, longest first"),
    field("default", Shape::Name, "The lifetime of services that do not name one"),
]);
