//! Houses that write JSON.

use super::{Need, Network};
use serde_json::{Map, Value, json};

/// One file with an array of cards; references are objects that say what they are.
pub(super) const CARDS: &str = r#"
[[reader]]
name = "cards"
files = ["config/cards.json"]
syntax = "json"
module = "all"
[[reader.take]]
what = "service"
each = "$.cards[*]"
id = "$.ident"
type = "$.impl"
offers = "$.roles"
[[reader.take.need]]
each = "$.refs[?@.to]"
slot = "$.port"
service = "$.to"
[[reader.take.need]]
each = "$.refs[?@.role]"
slot = "$.port"
contract = "$.role"
[[reader.take.need]]
each = "$.refs[?@.number]"
slot = "$.port"
setting = "$.number"
[[reader.take]]
what = "setting"
each = "$.numbers[*]"
id = "$.ident"
value = "$.value"
[[reader.take]]
what = "entry"
each = "$.routes[*]"
id = "$.path"
[[reader.take.need]]
each = "$.calls[*]"
service = "$"
"#;

pub(super) fn cards(network: &Network) -> Vec<(String, String)> {
    let (mut cards, mut numbers, mut routes) = (Vec::new(), Vec::new(), Vec::new());
    for module in &network.modules {
        for part in &module.parts {
            let refs: Vec<Value> = part
                .needs
                .iter()
                .enumerate()
                .map(|(number, need)| {
                    let port = format!("p{number}");
                    match need {
                        Need::Part(name) => json!({ "port": port, "to": name }),
                        Need::Contract(name) => json!({ "port": port, "role": name }),
                        Need::Setting(name) => json!({ "port": port, "number": name }),
                    }
                })
                .collect();
            let mut card = Map::new();
            card.insert("ident".to_owned(), part.name.clone().into());
            card.insert("impl".to_owned(), part.type_name.clone().into());
            card.insert("text".to_owned(), part.about.clone().into());
            if let Some(contract) = &part.offers {
                card.insert("roles".to_owned(), json!([contract]));
            }
            card.insert("refs".to_owned(), refs.into());
            cards.push(Value::Object(card));
        }
        numbers.extend(module.settings.iter().map(|(name, value)| json!({ "ident": name, "value": value })));
        routes.extend(
            module.doors.iter().map(|(door, uses)| json!({ "path": format!("/{door}"), "calls": uses })),
        );
    }
    let all = json!({ "cards": cards, "numbers": numbers, "routes": routes });
    vec![("config/cards.json".to_owned(), format!("{all:#}\n"))]
}

/// Groups of parts; `${x}` is a part, `#{x}` a number, `one Clock` a contract.
pub(super) const GROUPS: &str = r#"
[[reader]]
name = "groups"
files = ["areas/*/groups.json"]
syntax = "json"
module = "$.area"
[[reader.take]]
what = "service"
each = "$.groups.*.*"
id = { key = true }
type = "$.of"
offers = "$.can"
[[reader.take.need]]
each = "$.with.*"
[[reader.take]]
what = "setting"
each = "$.numbers.*"
id = { key = true }
value = "$"
[[reader.take]]
what = "entry"
each = "$.screens.*"
id = { key = true }
[[reader.take.need]]
each = "$.shows[*]"
[[reader.value]]
match = '\$\{(?<service>[\w.-]+)\}'
[[reader.value]]
match = '#\{(?<setting>[\w.]+)\}'
[[reader.value]]
match = '^one (?<contract>\w+)$'
"#;

pub(super) fn groups(network: &Network) -> Vec<(String, String)> {
    let file = |module: &super::Module| {
        let mut groups: Map<String, Value> = Map::new();
        for (number, part) in module.parts.iter().enumerate() {
            let with: Map<String, Value> = part
                .needs
                .iter()
                .enumerate()
                .map(|(slot, need)| {
                    let value = need.written(["${{}}", "one {}", "#{{}} s"]);
                    (format!("slot-{slot}"), value.into())
                })
                .collect();
            let mut own = Map::new();
            own.insert("of".to_owned(), part.type_name.clone().into());
            if let Some(contract) = &part.offers {
                own.insert("can".to_owned(), json!([contract]));
            }
            own.insert("with".to_owned(), with.into());
            let group = ["inside", "outside", "underway"][number % 3];
            if let Some(group) = groups.entry(group).or_insert_with(|| Map::new().into()).as_object_mut() {
                group.insert(part.name.clone(), own.into());
            }
        }
        let numbers: Map<String, Value> =
            module.settings.iter().map(|(name, value)| (name.clone(), (*value).into())).collect();
        let screens: Map<String, Value> = module
            .doors
            .iter()
            .map(|(door, uses)| {
                let shows: Vec<String> = uses.iter().map(|name| format!("${{{name}}}")).collect();
                (door.clone(), json!({ "title": door.replace('-', " "), "shows": shows }))
            })
            .collect();
        let all = json!({ "area": module.name, "groups": groups, "numbers": numbers, "screens": screens });
        (format!("areas/{}/groups.json", module.name), format!("{all:#}\n"))
    };
    network.modules.iter().map(file).collect()
}
