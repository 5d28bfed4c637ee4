//! House formats that nobody taught, of any size, each with the reader that a team would have written: what a draft is held
//! against.
//!
//! All of them say the same network; none of them says it as the examples do.

mod json;
mod layers;
mod lines;
pub mod mixed;
mod parts;
mod toml;
mod xml;
mod yaml;

use crate::corpus::Random;

/// A house and how it writes its definitions.
#[derive(Debug, Clone, Copy)]
pub struct Format {
    /// What it is called.
    pub name: &'static str,
    /// The reader that a team would write.
    pub reader: &'static str,
    files: fn(&Network) -> Vec<(String, String)>,
}

impl Format {
    /// About so many items, as files.
    pub fn files(&self, items: usize) -> Vec<(String, String)> {
        (self.files)(&Network::new(items))
    }
}

/// All of them.
pub const FORMATS: [Format; 25] = [
    Format { name: "wants (YAML, lists and slots)", reader: yaml::WANTS, files: yaml::wants },
    Format { name: "kinds (YAML, sorts in one list)", reader: yaml::KINDS, files: yaml::kinds },
    Format { name: "sheets (YAML, a file for each)", reader: yaml::SHEETS, files: yaml::sheets },
    Format { name: "cards (JSON, references as objects)", reader: json::CARDS, files: json::cards },
    Format { name: "groups (JSON, groups and signs)", reader: json::GROUPS, files: json::groups },
    Format { name: "units (TOML, a table for each)", reader: toml::UNITS, files: toml::units },
    Format { name: "devices (XML, names without module)", reader: xml::DEVICES, files: xml::devices },
    Format { name: "sections (INI, ids as sections)", reader: lines::SECTIONS, files: lines::sections },
    Format { name: "blocks (records)", reader: lines::BLOCKS, files: lines::blocks },
    Format { name: "rooms (YAML, ids at the root)", reader: yaml::ROOMS, files: yaml::rooms },
    Format { name: "links (TOML, sorts before a colon)", reader: toml::LINKS, files: toml::links },
    Format { name: "city (XML, one file)", reader: xml::CITY, files: xml::city },
    Format { name: "documents (YAML, one for each)", reader: parts::DOCUMENTS, files: parts::documents },
    Format { name: "tags (YAML, tags of its own)", reader: parts::TAGS, files: parts::tags },
    Format { name: "calls (YAML, types with brackets)", reader: parts::CALLS, files: parts::calls },
    Format { name: "shelves (YAML, files of several shapes)", reader: parts::SHELVES, files: parts::shelves },
    Format { name: "flat (properties, words around ids)", reader: lines::FLAT, files: lines::flat },
    Format {
        name: "tables (INI, a section for each thing said)",
        reader: lines::TABLES,
        files: lines::tables,
    },
    Format { name: "areas (YAML, groups in one file)", reader: layers::AREAS, files: layers::areas },
    Format { name: "heads (YAML, names below a head)", reader: layers::HEADS, files: layers::heads },
    Format { name: "folders (TOML, sorts by folder)", reader: layers::FOLDERS, files: layers::folders },
    Format { name: "teams (JSON, words before brackets)", reader: layers::TEAMS, files: layers::teams },
    Format { name: "edges (TOML, who needs what apart)", reader: toml::EDGES, files: toml::edges },
    Format { name: "wards (TOML, names in groups)", reader: layers::WARDS, files: layers::wards },
    Format { name: "says (lines, words inside)", reader: lines::SAYS, files: lines::says },
];

/// A service.
pub(crate) struct Part {
    pub(crate) name: String,
    pub(crate) type_name: String,
    pub(crate) offers: Option<String>,
    pub(crate) needs: Vec<Need>,
    pub(crate) about: String,
}

/// What is needed.
pub(crate) enum Need {
    Part(String),
    Contract(String),
    Setting(String),
}

impl Need {
    /// As a house writes it: how a part, a contract and a setting are, with braces for the name.
    fn written(&self, [part, contract, setting]: [&str; 3]) -> String {
        match self {
            Self::Part(name) => part.replace("{}", name),
            Self::Contract(name) => contract.replace("{}", name),
            Self::Setting(name) => setting.replace("{}", name),
        }
    }
}

impl Part {
    /// All that it needs as a house writes it.
    fn written(&self, how: [&str; 3]) -> Vec<String> {
        self.needs.iter().map(|need| need.written(how)).collect()
    }

    /// What it needs under one name for each sort, where there is any of it; `how` is the way in which names are written.
    fn sorted(&self, fields: [&'static str; 3], how: &str) -> Vec<(&'static str, String)> {
        let sorts = [[how, "", ""], ["", how, ""], ["", "", how]];
        let of = |(field, sort): (&'static str, [&str; 3])| {
            let names = self.written(sort).into_iter().filter(|name| !name.is_empty()).collect::<Vec<_>>();
            (!names.is_empty()).then(|| (field, names.join(", ")))
        };
        fields.into_iter().zip(sorts).filter_map(of).collect()
    }
}

/// A module.
pub(crate) struct Module {
    pub(crate) name: String,
    pub(crate) parts: Vec<Part>,
    /// Settings with their values.
    pub(crate) settings: Vec<(String, usize)>,
    /// Entries with the services that they use.
    pub(crate) doors: Vec<(String, Vec<String>)>,
}

/// What all formats say.
pub(crate) struct Network {
    pub(crate) modules: Vec<Module>,
}

const AREAS: [&str; 8] =
    ["timetable", "vehicles", "depot", "signals", "passenger", "traction", "incidents", "crew"];
const THINGS: [&str; 12] =
    ["gate", "board", "clock", "lamp", "track", "switch", "siren", "roster", "meter", "radio", "desk", "map"];

impl Network {
    /// The same for the same number.
    fn new(items: usize) -> Self {
        let mut random = Random::new(21);
        let modules = (items / 60).clamp(4, 400);
        let parts = items * 8 / 10 / modules;
        let module = |number: usize| {
            let round = number / AREAS.len();
            let area = AREAS[number % AREAS.len()];
            if round == 0 { area.to_owned() } else { format!("{area}{round}") }
        };
        let name = |module: &str, part: usize| {
            let thing = THINGS[part % THINGS.len()];
            let round = part / THINGS.len();
            if round == 0 { format!("{module}.{thing}") } else { format!("{module}.{thing}-{round}") }
        };
        let made = (0..modules).map(|number| {
            let area = module(number);
            let settings = parts.div_ceil(6).max(2);
            let settings: Vec<_> =
                (0..settings).map(|number| (format!("{area}.seconds_{number}"), 5 + number)).collect();
            let all = (0..parts).map(|part| {
                let mut needs = Vec::new();
                for _ in 0..random.below(4) {
                    let (other, far) = (random.below(parts), random.below(modules));
                    let target = if random.below(3) == 0 { module(far) } else { area.clone() };
                    needs.push(match random.below(10) {
                        0..6 if other != part => Need::Part(name(&target, other)),
                        6 | 7 => Need::Setting(settings[random.below(settings.len())].0.clone()),
                        8 => Need::Contract(contract(random.below(modules))),
                        // Some of what is needed is misspelt.
                        _ if random.below(5) == 0 => Need::Part(format!("{}x", name(&target, other))),
                        _ => Need::Part(name(&target, other)),
                    });
                }
                Part {
                    name: name(&area, part),
                    type_name: format!("velmora.{area}.{}{part}", capital(THINGS[part % THINGS.len()])),
                    offers: (part == 2).then(|| contract(number)),
                    needs,
                    about: format!("Made for the {area}, and checked by the night shift"),
                }
            });
            let parts_of: Vec<Part> = all.collect();
            let doors = (0..parts.div_ceil(8).max(1)).map(|door| {
                let uses = (0..=door % 3).map(|_| name(&area, random.below(parts))).collect();
                (format!("open-{area}-{door}"), uses)
            });
            let doors = doors.collect();
            Module { name: area, parts: parts_of, settings, doors }
        });
        Self { modules: made.collect() }
    }
}

fn contract(module: usize) -> String {
    let round = module / AREAS.len();
    let round = if round == 0 { String::new() } else { round.to_string() };
    format!("{}Clock{round}", capital(AREAS[module % AREAS.len()]))
}

fn capital(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or_else(String::new, |first| first.to_uppercase().chain(letters).collect())
}
