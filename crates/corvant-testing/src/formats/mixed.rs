//! Formats that are put together by chance, of what houses do: how files are laid out, what ids and references look like, and
//! what else stands there.

use super::{Module, Need, Network, Part};
use crate::corpus::Random;
use crate::syntaxes::{as_json, as_toml, as_yaml};
use serde_json::{Map, Value, json};

/// Where items stand.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum Layout {
    /// A file for each module, with a section for each sort.
    Modules,
    /// A file for each sort in each module.
    Sorts,
    /// One file for all, with a section for each sort.
    Single,
    /// A file for each module, with one list whose items say what they are.
    Kinds,
    /// A file for each service, and one for all else.
    Parts,
}

/// How names are written.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum Written {
    /// As they are; names of several sorts differ in their signs.
    Bare,
    /// Behind a sign.
    Sign,
    /// Behind a word and a sign.
    Word,
    /// As a map with one key.
    Object,
    /// As a map that says the sort, and the name.
    Kind,
}

/// Where needs stand.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum Held {
    List,
    Slots,
    /// A list for each sort.
    Sorted,
}

/// What settings look like.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum Settings {
    Plain,
    /// Maps in maps, whose keys make the name.
    Nested,
    /// A value, and something about it.
    Described,
}

/// What stands beside what counts.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum Beside {
    Nothing,
    /// Plain values between references.
    Values,
    /// Fields that nobody needs to know.
    Fields,
    Both,
}

/// A format of many.
#[derive(Clone, Copy, Debug)]
pub struct Mixed {
    seed: u64,
    syntax: usize,
    layout: Layout,
    /// Whether ids are keys, and no fields.
    by_key: bool,
    /// Whether names leave their own module out.
    own_module: bool,
    written: Written,
    held: Held,
    settings: Settings,
    beside: Beside,
}

const WORDS: [[&str; 3]; 3] = [["part", "role", "number"], ["ref", "any", "val"], ["svc", "api", "cfg"]];
const SIGNS: [[&str; 3]; 3] = [["@", "!", "#"], ["~", "*", "$"], ["&", "+", "%"]];
const LISTS: [[&str; 3]; 3] =
    [["parts", "roles", "numbers"], ["uses", "asks", "reads"], ["needs", "wants", "takes"]];
const SECTIONS: [[&str; 3]; 3] =
    [["services", "settings", "entries"], ["parts", "values", "pages"], ["units", "dials", "doors"]];
const SLOTS: [&str; 6] = ["clock", "store", "source", "sink", "label", "mode"];
const PLAIN: [&str; 6] =
    ["42", "7.5", "https://velmora.example/board", "Line 4, platform 2", "utf-8", "every night at two"];

/// Items of one sort: their ids, and what they say.
type Items = Vec<(String, Value)>;

impl Mixed {
    /// The same for the same number.
    pub fn new(seed: u64) -> Self {
        let mut random = Random::new(seed);
        let layout = [Layout::Modules, Layout::Sorts, Layout::Single, Layout::Kinds, Layout::Parts];
        let layout = layout[random.below(5)];
        let own_module = random.below(3) == 0 && matches!(layout, Layout::Modules | Layout::Sorts);
        let held = [Held::List, Held::Slots, Held::Sorted][random.below(3)];
        let ways = [Written::Sign, Written::Word, Written::Object, Written::Kind, Written::Bare];
        let written = if held == Held::Sorted {
            [Written::Bare, Written::Sign][random.below(2)]
        } else {
            ways[random.below(if own_module { 4 } else { 5 })]
        };
        let settings = match (layout, own_module) {
            (Layout::Kinds, _) => Settings::Plain,
            (_, true) => [Settings::Plain, Settings::Described][random.below(2)],
            _ => [Settings::Plain, Settings::Nested, Settings::Described][random.below(3)],
        };
        Self {
            seed,
            syntax: random.below(3),
            layout,
            by_key: random.below(2) == 0,
            own_module,
            written,
            held,
            settings,
            beside: [Beside::Nothing, Beside::Values, Beside::Fields, Beside::Both][random.below(4)],
        }
    }

    /// About so many items, as files.
    pub fn files(&self, items: usize) -> Vec<(String, String)> {
        let network = Network::new(items);
        let sections = SECTIONS[self.words()];
        let mut files: Vec<(String, Value)> = Vec::new();
        for module in &network.modules {
            let name = &module.name;
            let all = [self.parts(module), self.dials(module), self.doors(module)];
            match self.layout {
                Layout::Modules => {
                    files.push((format!("modules/{name}/wiring"), self.in_sections(sections, &all)));
                }
                Layout::Sorts => {
                    let of = sections.iter().zip(&all).enumerate();
                    files.extend(of.map(|(sort, (section, items))| {
                        (format!("{name}/{section}"), json!({ *section: self.section(sort, items) }))
                    }));
                }
                Layout::Kinds => files.push((format!("net/{name}"), json!({ "all": self.of_kinds(all) }))),
                Layout::Parts => {
                    let path = |id: &str| format!("{name}/{}/{}", sections[0], id.replace('.', "-"));
                    let one = |(id, said): &(String, Value)| (path(id), with_id("id", id, said));
                    files.extend(all[0].iter().map(one));
                    for (sort, section) in sections.iter().enumerate().skip(1) {
                        let items = self.section(sort, &all[sort]);
                        files.push((format!("{name}/{section}"), json!({ *section: items })));
                    }
                }
                Layout::Single => {}
            }
        }
        if self.layout == Layout::Single {
            let all = [Self::parts, Self::dials, Self::doors]
                .map(|of| network.modules.iter().flat_map(|module| of(self, module)).collect());
            files.push(("app/wiring".to_owned(), self.in_sections(sections, &all)));
        }
        let (ending, write): (&str, fn(&Value) -> String) =
            [("json", as_json as _), ("toml", as_toml as _), ("yaml", as_yaml as _)][self.syntax];
        files.into_iter().map(|(path, said)| (format!("{path}.{ending}"), write(&said))).collect()
    }

    fn words(&self) -> usize {
        self.seed as usize % WORDS.len()
    }

    fn in_sections(&self, sections: [&str; 3], all: &[Items; 3]) -> Value {
        let section = |(sort, items): (usize, &Items)| (sections[sort].to_owned(), self.section(sort, items));
        Value::Object(all.iter().enumerate().map(section).collect())
    }

    /// Items of one sort: 0 services, 1 settings, 2 entries.
    fn section(&self, sort: usize, items: &Items) -> Value {
        if sort == 1 && self.settings == Settings::Nested {
            let mut modules: Map<String, Value> = Map::new();
            for (id, value) in items {
                let (module, name) = id.split_once('.').unwrap_or((id, ""));
                modules.entry(module).or_insert_with(|| json!({}))[name] = value.clone();
            }
            return Value::Object(modules);
        }
        if self.by_key {
            return Value::Object(items.iter().cloned().collect());
        }
        items.iter().map(|(id, said)| with_id("id", id, said)).collect()
    }

    fn of_kinds(&self, all: [Items; 3]) -> Value {
        let words = [WORDS[self.words()][0], WORDS[self.words()][2], "page"];
        let of = all.into_iter().zip(words);
        let items = of.flat_map(|(items, word)| {
            items.into_iter().map(move |(id, said)| {
                let mut item = with_id("id", &id, &said);
                item["kind"] = word.into();
                item
            })
        });
        items.collect()
    }

    fn parts(&self, module: &Module) -> Items {
        let one = |part: &Part| {
            let mut said = json!({ "class": part.type_name });
            if matches!(self.beside, Beside::Fields | Beside::Both) {
                said["about"] = part.about.as_str().into();
                said["owner"] = format!("{} desk", module.name).into();
                said["on"] = true.into();
            }
            if let Some(contract) = &part.offers {
                said["offers"] =
                    if self.seed.is_multiple_of(2) { json!([contract]) } else { contract.as_str().into() };
            }
            let plain = part.name.len() + part.needs.len();
            self.hold(&mut said, module, part.needs.iter(), plain);
            (self.short(module, &part.name), said)
        };
        module.parts.iter().map(one).collect()
    }

    fn dials(&self, module: &Module) -> Items {
        let one = |(id, value): &(String, usize)| {
            let is_described = self.settings == Settings::Described;
            let said = if is_described { json!({ "default": value, "unit": "s" }) } else { json!(value) };
            (self.short(module, id), said)
        };
        module.settings.iter().map(one).collect()
    }

    fn doors(&self, module: &Module) -> Items {
        let one = |(id, uses): &(String, Vec<String>)| {
            let mut said = json!({});
            let needs: Vec<Need> = uses.iter().cloned().map(Need::Part).collect();
            self.hold(&mut said, module, needs.iter(), 0);
            (id.clone(), said)
        };
        module.doors.iter().map(one).collect()
    }

    /// A name as the module itself says it.
    fn short(&self, module: &Module, name: &str) -> String {
        let own = name.strip_prefix(module.name.as_str()).and_then(|rest| rest.strip_prefix('.'));
        own.filter(|_| self.own_module).unwrap_or(name).to_owned()
    }

    fn hold<'n>(
        &self,
        said: &mut Value,
        module: &Module,
        needs: impl Iterator<Item = &'n Need>,
        plain: usize,
    ) {
        let mut all: Vec<(usize, Value)> = needs.map(|need| self.need(module, need)).collect();
        if self.held == Held::Sorted {
            for (sort, list) in LISTS[self.words()].into_iter().enumerate() {
                let names: Vec<Value> =
                    all.iter().filter(|(of, _)| *of == sort).map(|(_, name)| name.clone()).collect();
                if !names.is_empty() {
                    said[list] = names.into();
                }
            }
            return;
        }
        if matches!(self.beside, Beside::Values | Beside::Both) && plain % 3 == 1 {
            all.insert(plain % (all.len() + 1), (0, PLAIN[plain % PLAIN.len()].into()));
        }
        let values = all.into_iter().map(|(_, value)| value);
        if self.held == Held::List {
            said["with"] = values.collect();
            return;
        }
        // Each item has slots of its own choice.
        let slots = SLOTS.iter().cycle().skip(plain % SLOTS.len());
        said["with"] = Value::Object(slots.map(|slot| (*slot).to_owned()).zip(values).collect());
    }

    /// What is needed: its sort, and how it is written.
    fn need(&self, module: &Module, need: &Need) -> (usize, Value) {
        let (sort, name) = match need {
            Need::Part(name) => (0, self.short(module, name)),
            Need::Contract(name) => (1, name.clone()),
            Need::Setting(name) => (2, self.short(module, name)),
        };
        let word = WORDS[self.words()][sort];
        let written = match self.written {
            Written::Bare => name.into(),
            Written::Sign => format!("{}{name}", SIGNS[self.words()][sort]).into(),
            Written::Word => format!("{word}:{name}").into(),
            Written::Object => json!({ word: name }),
            Written::Kind => json!({ "kind": word, "name": name }),
        };
        (sort, written)
    }
}

/// An item that says its id itself, and its value, if it is one.
fn with_id(field: &str, id: &str, said: &Value) -> Value {
    let mut item = json!({ field: id });
    match said.as_object() {
        Some(said) => said.iter().for_each(|(key, value)| item[key] = value.clone()),
        None => item["value"] = said.clone(),
    }
    item
}

/// The same in Corvant's own format: what a draft of it has to say.
pub fn in_own_format(items: usize) -> Vec<(String, String)> {
    let need = |need: &Need| match need {
        Need::Part(name) => json!({ "service": name }),
        Need::Contract(name) => json!({ "contract": name }),
        Need::Setting(name) => json!({ "setting": name }),
    };
    let slots = |needs: &mut dyn Iterator<Item = Value>| {
        Value::Object(needs.enumerate().map(|(slot, need)| (format!("slot{slot}"), need)).collect())
    };
    let one = |module: &Module| {
        let services = module.parts.iter().map(|part| {
            let needs = slots(&mut part.needs.iter().map(need));
            let offers: Vec<&String> = part.offers.iter().collect();
            (part.name.clone(), json!({ "type": part.type_name, "offers": offers, "needs": needs }))
        });
        let settings = module.settings.iter().map(|(id, value)| (id.clone(), json!(value)));
        let entries = module.doors.iter().map(|(id, uses)| {
            let needs = slots(&mut uses.iter().map(|name| json!({ "service": name })));
            (id.clone(), json!({ "needs": needs }))
        });
        let said = json!({
            "module": module.name,
            "services": Value::Object(services.collect()),
            "settings": Value::Object(settings.collect()),
            "entries": Value::Object(entries.collect()),
        });
        (format!("{}.wiring.json", module.name), as_json(&said))
    };
    Network::new(items).modules.iter().map(one).collect()
}
