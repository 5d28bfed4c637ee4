//! Readers that are drafted for files which nobody has described.

use corvant_core::wiring::Wiring;
use corvant_read::draft::{Draft, draft_of};
use corvant_testing::drafts::{Agreement, agreement, agreement_with, percent};
use corvant_testing::formats::FORMATS;
use corvant_testing::formats::mixed::{self, Mixed};
use rstest::rstest;
use std::collections::{BTreeMap, HashSet};

type Files = Vec<(String, String)>;

/// About how many items formats have that are put together by chance.
const ITEMS: usize = 120;

fn draft(files: &Files) -> Draft {
    draft_of(files.iter().map(|(path, text)| (path.as_str(), text.as_str())))
}

fn files(files: &[(&str, &str)]) -> Files {
    files.iter().map(|(path, text)| ((*path).to_owned(), (*text).to_owned())).collect()
}

/// What a team would write by hand, the draft takes too, and next to nothing else.
#[rstest]
fn drafts_take_what_readers_by_hand_do(
    #[values(0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24)]
    number: usize,
) {
    let format = FORMATS[number];
    let files = format.files(700);
    let draft = draft(&files);
    let found = agreement(&files, format.reader, &draft.text()).unwrap_or_else(|error| panic!("{error}"));
    let name = format.name;
    assert!(found.ids.1 > 500 && found.needs.1 > 500 && found.settings.1 > 50, "{name}: {found:?}");
    assert!(percent(found.ids) >= 90.0, "{name}: {found:?}");
    assert!(percent(found.needs) >= 90.0, "{name}: {found:?}");
    assert!(percent(found.settings) >= 90.0, "{name}: {found:?}");
    assert!(percent(found.wrong) < 2.0, "{name}: {found:?}");
    // What the readers read has the shape that they say.
    let (text, all) = (draft.text(), files.iter().map(|(path, text)| (path.as_str(), text.as_str())));
    let wiring = corvant_testing::wiring(all.chain([("corvant.toml", text.as_str())]));
    assert!(wiring.facts.troubles.is_empty(), "{name}: {:?}", wiring.facts.troubles[0]);
    assert_eq!(repeated(&wiring), 0, "{name}: nothing is taken twice");
}

/// How many services and entries have the id of another.
fn repeated(wiring: &Wiring) -> usize {
    let services = wiring.facts.services.iter().map(|service| ("service", service.id.name));
    let all: Vec<_> =
        services.chain(wiring.facts.entries.iter().map(|entry| ("entry", entry.id.name))).collect();
    all.len() - all.iter().collect::<HashSet<_>>().len()
}

/// Whatever a house has chosen of what houses do, next to all is found.
#[rstest]
fn drafts_take_formats_put_together_by_chance(#[values(0, 40, 80, 120, 160)] from: u64) {
    let said = mixed::in_own_format(ITEMS);
    let mut all = Agreement::default();
    let mut parted = Vec::new();
    for seed in from..from + 40 {
        let format = Mixed::new(seed);
        let files = format.files(ITEMS);
        let text = draft(&files).text();
        let found =
            agreement_with(&said, &files, &text).unwrap_or_else(|error| panic!("{format:?}: {error}"));
        let own = files.iter().map(|(path, text)| (path.as_str(), text.as_str()));
        let wiring = corvant_testing::wiring(own.chain([("corvant.toml", text.as_str())]));
        assert_eq!(repeated(&wiring), 0, "{format:?}: nothing is taken twice");
        all = all.and(found);
        if found.ids.0 < found.ids.1 || found.wrong.0 > 0 {
            parted.push(format!("{format:?}: {found:?}"));
        }
    }
    let parted = parted.join("\n");
    assert!(all.ids.1 > 3_000 && all.needs.1 > 3_000 && all.settings.1 > 300, "{all:?}");
    assert!(percent(all.ids) >= 99.0, "{all:?}\n{parted}");
    assert!(percent(all.needs) >= 98.0, "{all:?}\n{parted}");
    assert!(percent(all.settings) >= 97.0, "{all:?}\n{parted}");
    assert!(percent(all.wrong) < 1.0, "{all:?}\n{parted}");
}

/// Houses of one sort of thing each: what is written for twelve parts and four settings of a module, a file of their own for each
/// part (with an `N` in the path) or one for all, and the lines that the draft must have.
#[rstest]
#[case::elements_with_texts(
    "M/parts/N.xml",
    "<part><id>M.gate-N</id><code>velmora.M.GateN</code><needs><need>M.gate-O</need></needs></part>\n",
    "",
    &["each = \"$.part\"", "id = \"$.id[*]['#text']\"", "each = \"$.needs[*].need[?@['#text']]\""]
)]
#[case::fields_that_go_on(
    "M/parts.rec",
    "Part: M.gate-N\nCode: velmora.M.GateN\nAbout: opens\n  and shuts\nTakes: M.gate-O, M.gate-P\n\n",
    "",
    &["syntax = \"records\"", "id = \"$.Part\"", "service = { from = \"$\", split = \",\" }"]
)]
#[case::sections_of_a_file(
    "M/N.part",
    "[part]\nname = M.gate-N\ncode = velmora.M.GateN\n[inputs]\nslotN = M.gate-O\n",
    "",
    &["id = \"$.part.name\"", "type = \"$.part.code\"", "each = \"$.inputs.*\""]
)]
#[case::numbers_with_plain_values_between(
    "M/parts.ini",
    "[part M.gate-N]\ncode = velmora.M.GateN\narg.1 = utf-8\narg.2 = @M.gate-O\narg.3 = Line 4, platform N\n",
    "",
    &["id = { key = true, match = \"^part (.+)$\" }", "each = \"$['arg.2']\"", "match = '^@(?<service>[\\w.\\\\-]+)$'"]
)]
#[case::slots_in_flat_keys(
    "M.properties",
    "service.M.gate-N=velmora.M.GateN\nwire.M.gate-N.slotN=@M.gate-O\n",
    "number.M.wait-N=N\n",
    &["only-keys = '^wire\\.'", "id = { key = true, match = '^wire\\.(.+?)\\.[^.]+$' }", "merge = true"]
)]
#[case::lists_in_flat_keys(
    "M.properties",
    "M.gate-N.code=velmora.M.GateN\nM.gate-N.needs.0=M.gate-O\nM.gate-N.needs.1=M.gate-P\n",
    "",
    &["only-keys = '^.+\\.needs(?:\\.\\d+)?$'", "id = { key = true, match = '^(.+?)(?:\\.(?:code|needs)(?:\\.\\d+)?)?$' }"]
)]
#[case::names_below_a_head(
    "net/M.yaml",
    "---\nkind: Part\nhead: { area: M, name: gate-N }\nbody: { code: velmora.M.GateN, needs: [M/gate-O] }\n",
    "---\nkind: Value\nhead: { area: M, name: wait-N }\nbody: { is: N }\n",
    &["id = { joined = [\"$.head.area\", \"$.head.name\"], between = \"/\" }"]
)]
#[case::words_in_brackets(
    "M/parts.json",
    "{\"id\": \"M.gate-N\", \"code\": \"velmora.M.GateN\", \"with\": [\"{part M.gate-O}\", \"7.5\", \"{value M.wait-1}\"]},",
    "{\"id\": \"M.wait-N\", \"value\": N},",
    &["match = '^\\{part (?<service>[\\w.\\\\-]+)\\}$'", "match = '^\\{value (?<setting>[\\w.\\\\-]+)\\}$'"]
)]
#[case::settings_of_several_fields(
    "M/parts.json",
    "{\"id\": \"M.gate-N\", \"code\": \"velmora.M.GateN\", \"with\": [\"@M.gate-O\", \"$M.wait-1\"]},",
    "{\"id\": \"M.wait-N\", \"unit\": \"s\", \"usual\": N},",
    &["value = \"$.usual\""]
)]
#[case::arguments_beside_plain_values(
    "M/parts.yaml",
    "M.gate-N: velmora.M.GateN(utf-8, M.gate-O, 7.5)\n",
    "",
    &["service = { from = \"$\", within = '\\((.*)\\)$', match = '^[A-Za-z][\\w.\\\\-]*\\.[\\w.\\\\-]+$', split = \",\" }"]
)]
#[case::bare_names_beside_plain_values(
    "M/parts.yaml",
    "- id: M.gate-N\n  code: velmora.M.GateN\n  with: [utf-8, M.gate-O, every night, '7.5']\n",
    "",
    &["service = { from = \"$\", match = '^[A-Za-z][\\w.\\\\-]*\\.[\\w.\\\\-]+$' }"]
)]
#[case::references_of_two_fields(
    "M/parts.yaml",
    "- { area: M, name: gate-N, code: velmora.M.GateN, links: [{ area: M, name: gate-O, slot: a }] }\n",
    "",
    &["each = \"$.links[*]\"", "service = { joined = [\"$.area\", \"$.name\"] }"]
)]
#[case::references_of_two_attributes(
    "M/parts/N.xml",
    "<part><code>velmora.M.GateN</code><link to='gate-O' of='M'/><link to='gate-P' of='M'/></part>\n",
    "",
    &["each = \"$.link[*]\"", "service = { joined = [\"$['@of']\", \"$['@to']\"] }"]
)]
#[case::types_among_words(
    "M/parts.yaml",
    "- { id: M.gate-N, build: { code: velmora.M.GateN, scope: each }, links: [M.gate-O] }\n",
    "",
    &["type = \"$.build.code\""]
)]
#[case::types_in_elements(
    "M/parts/N.xml",
    "<part id='M.gate-N'><make code='velmora.M.GateN'/><link to='M.gate-O'/></part>\n",
    "",
    &["type = \"$.make[*]['@code']\""]
)]
#[case::numbers_where_nothing_has_a_type(
    "M/parts.json",
    "{\"id\": \"M.gate-N\", \"needs\": [\"M.gate-O\", \"crew.gate-3\"], \"reads\": [\"M.wait-1\"]},",
    "{\"dial\": \"M.wait-N\", \"at\": N},",
    &["what = \"setting\"", "value = \"$.at\"", "setting = \"$\""]
)]
#[case::words_before_names_in_lists(
    "M/parts.ini",
    "[M_GATE-N]\ncode = velmora.M.GateN\ngets = unit:M_GATE-O, unit:M_GATE-P, value:M_WAIT-1\n",
    "[M_WAIT-N]\nvalue = N\n",
    &["value = { from = \"$\", split = \",\" }", "match = '^unit:(?<service>[\\w.\\\\-]+)$'", "match = '^value:(?<setting>[\\w.\\\\-]+)$'"]
)]
#[case::types_before_names(
    "M.properties",
    "M.gate-N = velmora.M.GateN, @M.gate-O, $M.wait-1\nM.gate-N.role = RoleN\n",
    "M.wait-N = N\n",
    &["type = { from = \"$\", match = '^([^,\\s]+)' }", "value = { from = \"$\", within = \"^[^,]+,(.*)$\", split = \",\" }"]
)]
#[case::names_as_keys(
    "M/parts.json",
    "{\"id\": \"M.gate-N\", \"code\": \"velmora.M.GateN\", \"gives\": {\"RoleN\": {\"rank\": 1}}, \"needs\": {\"M.gate-O\": {\"must\": true}, \"M.gate-P\": {\"must\": true}, \"RoleO\": {\"must\": true}}},",
    "",
    &["each = \"$.needs.*\"", "value = { key = true }", "offers = { from = \"$.gives.*\", key = true }"]
)]
#[case::signs_before_names_in_lists(
    "M/parts.ini",
    "[M.gate-N]\ncode = velmora.M.GateN\nrole = RoleN\ngets = %M.wait-1 &RoleO @M.gate-O @M.gate-P\n",
    "[M.wait-N]\nvalue = N\n",
    &["value = { from = \"$\", split = \" \" }", "match = '^@(?<service>[\\w.\\\\-]+)$'", "match = '^\\&(?<contract>[\\w.\\\\-]+)$'"]
)]
#[case::rows(
    "M/parts.json",
    "[\"M.gate-N\", \"velmora.M.GateN\", [\"M.gate-O\", \"M.gate-P\"]],",
    "",
    &["each = \"$[*]\"", "id = \"$[0]\"", "type = \"$[1]\"", "each = \"$[2][*]\""]
)]
#[case::rows_that_say_what_they_name(
    "M/parts.json",
    "{\"id\": \"M.gate-N\", \"code\": \"velmora.M.GateN\", \"with\": [[\"part\", \"M.gate-O\"], [\"value\", \"M.wait-1\"]]},",
    "{\"dial\": \"M.wait-N\", \"at\": N},",
    &["each = \"$.with[?@[0] == 'part']\"", "service = \"$[1]\"", "setting = \"$[1]\""]
)]
#[case::files_called_as_their_items(
    "parts/M.N.json",
    "{\"part\": {\"id\": \"M.gate-N\", \"code\": \"velmora.M.GateN\"}, \"needs\": [\"M.gate-O\"]}",
    "",
    &["files = [\"parts/*.json\"]", "id = \"$.part.id\"", "each = \"$.needs[*]\""]
)]
#[case::lines_that_say_one_thing_each(
    "net/M.wire",
    "part M.gate-N velmora.M.GateN\nneed M.gate-N M.gate-O M.gate-P\nread M.gate-N M.wait-1\nwant M.gate-N RoleO\noffer M.gate-N RoleN\n",
    "value M.wait-N N\n",
    &["syntax = \"lines\"", "only-where = { from = \"$\", match = '^need\\s' }", "id = { from = \"$\", match = '^need\\s+(\\S+)' }", "type = { from = \"$\", within = '^part\\s+\\S+\\s+(\\S+)' }", "setting = { from = \"$\", within = '^read\\s+\\S+\\s+(\\S+)' }", "offers = { from = \"$\", within = '^offer\\s+\\S+\\s+(\\S+)' }", "value = { from = \"$\", within = '^value\\s+\\S+\\s+(\\S+)' }"]
)]
#[case::words_inside_of_lines(
    "net/M.wire",
    "part M.gate-N is velmora.M.GateN needs M.gate-O, M.gate-P reads M.wait-1\n",
    "value M.wait-N = N\n",
    &["type = { from = \"$\", within = '^part\\s+\\S+\\s(?:.*\\s)?is\\s+(.+?)(?:\\s+(?:is|needs|reads)\\s.*)?$' }", "service = { from = \"$\", within = '^part\\s+\\S+\\s(?:.*\\s)?needs\\s+(.+?)(?:\\s+(?:is|needs|reads)\\s.*)?$', split = \",\" }", "value = { from = \"$\", within = '^value\\s+\\S+\\s+=\\s+(.+)$' }"]
)]
#[case::lines_that_begin_with_ids(
    "net/M.wire",
    "M.gate-N velmora.M.GateN <- M.gate-O, M.gate-P\n",
    "",
    &["id = { from = \"$\", match = '^(\\S+)' }", "type = { from = \"$\", within = '^\\S+\\s+(\\S+)' }", "service = { from = \"$\", within = '^\\S+\\s+\\S+\\s+<\\-\\s+(.+)$', split = \",\" }"]
)]
#[case::calls_in_lines(
    "parts/M.wire",
    "M.gate-N = velmora.M.GateN(M.gate-O, M.gate-P)\n",
    "",
    &["type = { from = \"$\", within = '^\\S+\\s+=\\s+(.+)$', match = '^([^(]+)\\(' }", "service = { from = \"$\", within = '^\\S+\\s+=\\s+[^(]+\\((.*)\\)$', split = \",\" }"]
)]
#[case::lists_that_begin_with_a_type(
    "net/M.yaml",
    "M.gate-N: [velmora.M.GateN, M.gate-O, M.gate-P]\n",
    "",
    &["type = \"$[0]\"", "each = \"$[1:]\""]
)]
#[case::quoted_names_of_sections(
    "net/M.ini",
    "[part \"M.gate-N\"]\ncode = velmora.M.GateN\nuses = M.gate-O M.gate-P\n",
    "",
    &["id = { key = true, match = \"^part \\\"(.+)\\\"$\" }", "service = { from = \"$\", split = \" \" }"]
)]
#[case::lines_in_columns(
    "M.table",
    "M.gate-N | velmora.M.GateN | M.gate-O, M.gate-P | Role1 | RoleN\n",
    "M.lamp-N | velmora.M.LampN | - | - | -\n",
    &["id = { from = \"$\", match = '^([^\\|]*?)\\s*(?:\\||$)' }", "type = { from = \"$\", within = '^[^\\|]*\\|\\s*([^\\|]*?)\\s*(?:\\||$)' }", "offers = { from = \"$\", within = '^(?:[^\\|]*\\|){4}\\s*([^\\|]*?)\\s*(?:\\||$)', match = '^\\W*\\w.*$' }", "contract = { from = \"$\", within = '^(?:[^\\|]*\\|){3}\\s*([^\\|]*?)\\s*(?:\\||$)', match = '^\\W*\\w.*$' }"]
)]
#[case::a_word_behind_names(
    "M.yaml",
    "M.gate-N: { code: velmora.M.GateN, gets: [M.gate-O as left, M.gate-P as right] }\n",
    "",
    &["match = '^(?<service>[\\w.\\\\-]+) as '"]
)]
#[case::slots_behind_a_word_in_flat_keys(
    "parts/M.properties",
    "M.gate-N = velmora.M.GateN\nM.gate-N.given.aN = @M.gate-O\nM.gate-N.given.bN = $M.wait-1\n",
    "M.wait-N = N\n",
    &["only-keys = '^.+\\.given\\.[^.]+$'", "id = { key = true, match = '^(.+?)(?:\\.(?:given\\.[^.]+))?$' }", "match = '^@(?<service>[\\w.\\\\-]+)$'", "match = '^\\$(?<setting>[\\w.\\\\-]+)$'"]
)]
fn houses_are_drafted(
    #[case] path: &str,
    #[case] part: &str,
    #[case] setting: &str,
    #[case] expected: &[&str],
) {
    let written = |text: &str, module: &str, number: usize| {
        let other = |step: usize| ((number + step) % 12).to_string();
        let text = text.replace("gate-O", &format!("gate-{}", other(1)));
        let text = text.replace("RoleO", &format!("Role{}", other(1)));
        let text = text.replace("gate-P", &format!("gate-{}", other(5)));
        let text = text.replace("GATE-O", &format!("GATE-{}", other(1)));
        let text = text.replace("GATE-P", &format!("GATE-{}", other(5)));
        text.replace('M', module).replace("-N", &format!("-{number}")).replace('N', &number.to_string())
    };
    let mut files: BTreeMap<String, String> = BTreeMap::new();
    for module in ["depot", "signals", "crew", "power", "boards"] {
        let parts = (0..12).map(|number| (part, number));
        for (text, number) in parts.chain((0..4).map(|number| (setting, number))) {
            let path = path.replace('M', module).replace('N', &format!("gate-{number}"));
            files.entry(path).or_default().push_str(&written(text, module, number));
        }
    }
    // What ends with commas is a list.
    for text in files.values_mut().filter(|text| text.ends_with(',')) {
        *text = format!("[{}]", text.trim_end_matches(','));
    }
    let text = draft(&files.into_iter().collect()).text();
    for line in expected {
        assert!(text.lines().any(|own| own.starts_with(line)), "{line}\n{text}");
    }
}

/// Schemas have names and references, and nothing in them is built.
#[test]
fn schemas_hold_no_definitions() {
    let definitions = |number: usize| {
        format!(
            "\"velmora::Gate{number}\": {{\"type\": \"object\", \"properties\": {{\"next\": {{\"of\": \"velmora::Gate{}\"}}}}}}",
            (number + 1) % 20
        )
    };
    let definitions = (0..20).map(definitions).collect::<Vec<_>>().join(",");
    let schema = |head: &str| format!("{{{head}\"definitions\": {{{definitions}}}}}");
    let is_drafted = |head: &str| !draft(&files(&[("schema.json", &schema(head))])).families.is_empty();
    assert!(!is_drafted("\"$schema\": \"http://json-schema.org/draft-07/schema#\", "));
    assert!(is_drafted(""), "it would be taken for definitions without its head");
}

/// Where a type makes the name that is written beside it, what is written counts; what needs are is told of each sort.
#[test]
fn what_is_written_goes_before_what_could_be_made() {
    let files = of_modules("M/parts.yaml", |module| {
        let part = |number: usize| {
            let (own, far) = ((number + 1) % 12, (number + 5) % 12);
            format!(
                "- name: gate-{number}\n  code: velmora.{module}.Gate-{number}\n  needs: [gate-{own}, depot/gate-{far}]\n"
            )
        };
        (0..12).map(|number| part(number).replace("Gate-", "Gate")).collect()
    });
    let text = draft(&files).text();
    assert_eq!(lines(&text, "id = "), ["{ from = \"$.name\", form = \"{module}/{}\" }"], "{text}");
    for evidence in ["# 60 of 120 are services\n", "# 60 of 120 are services of their own module\n"] {
        assert!(text.contains(evidence), "{evidence}{text}");
    }
}

/// A few references among much prose make no definitions, whatever looks like types there.
#[test]
fn what_is_among_much_prose_is_no_definition() {
    let file = |number: usize| {
        let keys = (0..20).map(|key| {
            let (of, usual) = match key {
                0 => (format!("words=\"velmora.words.Word{number}\""), format!("'slow-{number}'")),
                _ => (String::new(), "as it is, seen from the yard".to_owned()),
            };
            format!("<key name=\"key-{key}\" {of}><usual>{usual}</usual></key>")
        });
        let keys: String = keys.collect();
        let words = format!(
            "<words id=\"velmora.words.Word{number}\"><word nick=\"slow-{number}\"/><word nick=\"fast-{number}\"/></words>"
        );
        (
            format!("screens/{number}.xml"),
            format!("<all>{words}<screen id=\"velmora.screen-{number}\">{keys}</screen></all>\n"),
        )
    };
    let draft = draft(&(0..12).map(file).collect());
    assert!(draft.families.is_empty(), "{}", draft.text());
    assert_eq!(draft.doubtful, [("screens/*.xml".to_owned(), 12)]);
}

/// What is in other words for houses whose names leave their module out: those that never say it, and those that say it of others.
#[rstest]
#[case::never("gate-O", &["service = { from = \"$\", form = \"{module}.{}\" }"])]
#[case::of_others("depot/gate-O", &[
    "service = { from = \"$\", match = '^([A-Za-z][\\w.\\\\/-]*/[\\w.\\\\/-]+)$' }",
    "service = { from = \"$\", match = '^([\\w.\\\\-]+)$', form = \"{module}/{}\" }",
])]
fn names_without_their_module_mean_their_own(#[case] far: &str, #[case] expected: &[&str]) {
    let files = of_modules("M/parts.yaml", |module| {
        let part = |number: usize| {
            let far = far.replace('O', &((number + 5) % 12).to_string());
            format!(
                "gate-{number}:\n  code: velmora.{module}.Gate{number}\n  needs: [gate-{}, {far}]\n",
                (number + 1) % 12
            )
        };
        (0..12).map(part).collect()
    });
    let text = draft(&files).text();
    for line in expected {
        assert!(text.lines().any(|own| own == *line), "{line}\n{text}");
    }
}

/// All words of a text as others, a capital where one was, the same for the same.
fn in_other_words(text: &str) -> String {
    let mut words: BTreeMap<String, String> = BTreeMap::new();
    let mut result = String::new();
    let mut letters = text.chars().peekable();
    while let Some(&letter) = letters.peek() {
        if !letter.is_ascii_alphabetic() {
            result.push(letter);
            letters.next();
            continue;
        }
        let mut word = String::new();
        while let Some(letter) = letters.next_if(char::is_ascii_alphabetic) {
            word.push(letter);
        }
        // Letters of equal rank from the other end of the alphabet: no word stays, and what was sorted is so no more.
        let other = words.entry(word.clone()).or_insert_with(|| {
            let turned = word.bytes().map(|byte| {
                let first = if byte.is_ascii_uppercase() { b'A' } else { b'a' };
                char::from(first + 25 - (byte - first))
            });
            turned.collect()
        });
        result.push_str(if matches!(word.as_str(), "true" | "false" | "null") { &word } else { other });
    }
    result
}

/// Nothing is known by its name.
#[rstest]
fn other_words_give_the_same_draft(
    #[values(0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23)]
    number: usize,
) {
    let format = FORMATS[number];
    let as_it_is = format.files(400);
    let turned: Files = as_it_is.iter().map(|(path, text)| (path.clone(), in_other_words(text))).collect();
    let told = |draft: Draft| -> Vec<_> {
        draft
            .families
            .into_iter()
            .map(|family| (family.glob, family.items, family.known, family.unsure.len()))
            .collect()
    };
    assert_eq!(told(draft(&turned)), told(draft(&as_it_is)), "{}", format.name);
}

#[rstest]
fn the_order_of_files_makes_no_difference(#[values(0, 6)] number: usize) {
    let files = FORMATS[number].files(300);
    let backwards: Files = files.iter().rev().cloned().collect();
    assert_eq!(draft(&files).text(), draft(&backwards).text());
}

/// Files that hold no definitions: settings of other tools, words of translations, lists of locked versions.
#[test]
fn what_only_looks_like_files_is_left_alone() {
    let words: String =
        (0..40).map(|number| format!("menu.item_{number}: Entry number {number} of the menu\n")).collect();
    let locked: String = (0..40)
        .map(|number| format!("[[package]]\nname = \"part{number}\"\nversion = \"1.{number}.0\"\n\n"))
        .collect();
    let files = files(&[
        ("ci/steps.yml", "steps:\n  - name: build\n    run: make\n  - name: test\n    run: make test\n"),
        ("words/en.yml", &words),
        ("versions.toml", &locked),
        ("format.json", "{ \"width\": 110, \"tabs\": false }\n"),
    ]);
    let draft = draft(&files);
    let services =
        draft.families.iter().flat_map(|family| &family.items).filter(|(what, _)| *what == "service");
    assert_eq!(services.count(), 0, "{}", draft.text());
}

/// Files of other tools have ids and references too: packages that need packages, steps that wait for steps, schemas. Those in
/// which there are items are told.
#[rstest]
#[case::packages(
    "packages/N/package.toml",
    30,
    "[package]\nname = \"part-N\"\nversion = \"1.0\"\n[dependencies]\npart-M = \"1\"\nlog = \"2\"\n"
)]
#[case::steps(
    "steps/N.yml",
    30,
    "build-N:\n  run: make\ntest-N:\n  run: make test\n  needs: [build-N]\nship-N:\n  run: ship\n  needs: [test-N, build-N]\n"
)]
#[case::schemas(
    "schemas/N.json",
    0,
    "{\"defs\": {\"name\": {\"type\": \"string\"}, \"tram\": {\"type\": \"object\", \"properties\": {\"n\": {\"ref\": \"#/defs/name\"}}}}}"
)]
#[case::words(
    "words/N.yaml",
    0,
    "menu:\n  open: Open the gate\n  shut: Shut the gate\nhelp:\n  open: Opens it\n"
)]
#[case::descriptions_with_one_mark(
    "api/N.xml",
    30,
    "<api><call name='open-N'><mark name='velmora.bus.Slow'/><see call='shut-N'/></call><call name='shut-N'><mark name='velmora.bus.Slow'/><see call='open-N'/></call></api>"
)]
fn files_of_other_tools_are_told_and_not_drafted(
    #[case] path: &str,
    #[case] told: usize,
    #[case] text: &str,
) {
    let numbered = |text: &str, number: usize| {
        text.replace('N', &number.to_string()).replace('M', &((number + 1) % 30).to_string())
    };
    let others: Files = (0..30).map(|number| (numbered(path, number), numbered(text, number))).collect();
    let alone = draft(&others);
    assert!(alone.families.is_empty(), "{}", alone.text());
    assert_eq!(alone.doubtful.iter().map(|(_, files)| files).sum::<usize>(), told, "{:?}", alone.doubtful);
    // Beside definitions they are left alone too, and take nothing from those.
    let format = FORMATS[9];
    let own = format.files(300);
    let mixed: Files = own.iter().chain(&others).cloned().collect();
    let found = agreement(&mixed, format.reader, &draft(&mixed).text()).unwrap();
    assert_eq!((found.ids.0, found.needs.0, found.wrong.0), (found.ids.1, found.needs.1, 0), "{found:?}");
}

/// Patterns fit the files that a family has and none that somebody else reads; signs in names stand for themselves.
#[test]
fn patterns_fit_what_they_are_for_alone() {
    let format = FORMATS[9];
    let mut files = format.files(300);
    let folder = files[0].0.rsplit_once('/').map_or("", |(folder, _)| folder).to_owned();
    let inside = if folder.is_empty() { String::new() } else { format!("{folder}/") };
    files.push((
        format!("{inside}odd [1].yaml"),
        "title: x\nsize: { a: 1, b: 2 }\nlines: [1, 2]\n".to_owned(),
    ));
    let taken = files[1].1.clone();
    files.push((format!("{inside}more [2].yaml"), taken.replace("velmora", "velmora2")));
    let draft = draft(&files);
    let text = draft.text();
    let all = || files.iter().map(|(path, text)| (path.as_str(), text.as_str()));
    let workspace =
        corvant_read::workspace::from_texts(all().chain([("corvant.toml", text.as_str())])).unwrap();
    let read = workspace.link().0;
    let paths: Vec<&str> = read.sources.iter().map(|source| source.path.as_str()).collect();
    assert!(paths.iter().any(|path| path.ends_with("more [2].yaml")), "{text}");
    assert!(!paths.iter().any(|path| path.ends_with("odd [1].yaml")), "{text}");
}

/// Definitions that lie one by one among other files are told, and none of those is taken with them.
#[test]
fn what_no_few_patterns_fit_is_told() {
    let both = |number: usize| {
        let needs = |other: usize| format!("m{}.gate", (number + other) % 60);
        let gate = format!(
            "{{\"parts\": {{\"m{number}.gate\": {{\"code\": \"velmora.m{number}.Gate\", \"takes\": [\"{}\"]}}, \"m{number}.lamp\": {{\"code\": \"velmora.m{number}.Lamp\", \"takes\": [\"{}\"]}}}}}}",
            needs(1),
            needs(2)
        );
        let other = format!("{{\"width\": {number}, \"tabs\": [1, 2], \"title\": \"Page {number}\"}}");
        [(format!("m{number}/a{number}.json"), gate), (format!("m{number}/b{number}.json"), other)]
    };
    let files: Files = (0..60).flat_map(both).collect();
    let draft = draft(&files);
    assert!(draft.families.is_empty(), "{}", draft.text());
    let all = [("*/*.json".to_owned(), 60)];
    assert_eq!((draft.scattered, draft.doubtful), (all.to_vec(), all.to_vec()), "the one, and the others");
}

/// Names of several sorts that are written in one way are told apart by the word beside them; and lists of names with signs
/// are lists.
#[rstest]
#[case::by_the_word_beside(
    |sort: &str, name: &str| format!("      - {{ kind: {sort}, name: {name} }}\n"),
    "each = \"$.needs[?@.kind == 'part']\"",
)]
#[case::by_signs_in_a_list(
    |sort: &str, name: &str| format!("      {}{name},\n", if sort == "part" { '@' } else { '%' }),
    "value = { from = \"$\", split = \",\" }",
)]
fn sorts_of_names_are_told_apart(#[case] need: fn(&str, &str) -> String, #[case] line: &str) {
    let is_list = need("part", "a").contains("- {");
    let file = |area: &str| {
        let values: String = (0..6).map(|at| format!("  {area}.seconds-{at}: {at}\n")).collect();
        let part = |number: usize| {
            let needs = need("part", &format!("{area}.gate-{}", (number + 1) % 12));
            let more = need("value", &format!("{area}.seconds-{}", number % 6));
            let folded = if is_list { "" } else { " >" };
            format!(
                "  {area}.gate-{number}:\n    class: velmora.{area}.Gate{number}\n    needs:{folded}\n{needs}{more}"
            )
        };
        let parts: String = (0..12).map(part).collect();
        (format!("net/{area}.yaml"), format!("values:\n{values}parts:\n{parts}"))
    };
    let files: Files = ["depot", "signals", "crew"].map(file).to_vec();
    let text = draft(&files).text();
    assert!(text.contains(line), "{line} is not in {text}");
    let all = files.iter().map(|(path, text)| (path.as_str(), text.as_str()));
    let workspace =
        corvant_read::workspace::from_texts(all.chain([("corvant.toml", text.as_str())])).unwrap();
    let facts = workspace.link().0.facts;
    let needs = facts.services.iter().map(|service| service.needs.of(&facts.parts).len());
    assert_eq!((facts.services.len(), needs.sum::<usize>()), (36, 72), "{text}");
}

/// A word that all keys of several files begin with is none of their names, unless somebody asks for them with it.
#[rstest]
#[case::unasked("", true)]
#[case::asked(" door.open-depot", false)]
fn a_word_before_all_keys_is_none_of_their_names(#[case] asked: &str, #[case] is_left_out: bool) {
    let units = |module: &str| {
        let unit = |name: &str| format!("{module}.{name}.class=velmora.{module}.{}\n", name.to_uppercase());
        let needs = [("lamp", "gate"), ("track", "yard"), ("gate", "board")]
            .map(|(who, what)| format!("{module}.{who}.uses={module}.{what}{asked}\n"))
            .concat();
        ["gate", "lamp", "yard", "track", "board"].map(unit).concat() + &needs
    };
    let doors =
        |module: &str| format!("door.open-{module}={module}.gate\ndoor.shut-{module}={module}.yard\n");
    let mut all = of_modules("M.units.properties", units);
    all.extend(of_modules("M.doors.properties", doors));
    let text = draft(&all).text();
    let entries = text.split("[[reader]]").find(|reader| reader.contains("doors.properties")).unwrap();
    assert_eq!(entries.contains(r"^door\.(.+?)$"), is_left_out, "{text}");
}

/// What stands in a map for each module is asked for with the module's name before its own, whatever else stands in such maps.
#[test]
fn names_below_their_module_are_asked_for_by_both() {
    let modules = ["depot", "signals", "crew", "power"];
    let of_module = |module: &str| {
        let part = |number: usize| {
            let uses = format!("{}.part-{}", modules[number % 4], (number * 5 + 1) % 6);
            format!(
                "[parts.{module}.part-{number}]\ncode = \"velmora.{module}.Part{number}\"\n\
                 uses = [\"{uses}\"]\nreads = [\"{module}.limits.cars\"]\n"
            )
        };
        let parts: String = (0..6).map(part).collect();
        format!(
            "{parts}[numbers.{module}]\nlimits.cars = 7\nlimits.tracks = 3\n\
             [doors.{module}]\nopen-{module} = [\"{module}.part-2\"]\n"
        )
    };
    let text = modules.map(of_module).concat();
    let text = draft(&files(&[("all.toml", &text)])).text();
    assert_eq!(
        each(&text),
        ["$.doors.*.*", "$[*]", "$.numbers.*.*.*", "$.parts.*.*", "$.reads[*]", "$.uses[*]"],
        "{text}"
    );
    assert_eq!(lines(&text, "module = { key = true, above = "), ["1 }"], "{text}");
    assert!(text.contains("id = { key = true, form = \"{module}.{}\" }"), "{text}");
}

/// How far the module stands above an item does not depend on how its path is written.
#[rstest]
#[case::sorts_in_a_list("items", false, "1 }")]
#[case::a_key_with_a_dot("work.items", false, "1 }")]
#[case::under_keys("work.items", true, "2 }")]
fn the_module_of_items_in_groups_is_the_key_above(
    #[case] field: &str,
    #[case] are_keyed: bool,
    #[case] above: &str,
) {
    let key = |name: &str| if are_keyed { format!("\"{name}\": ") } else { String::new() };
    let (begin, end) = if are_keyed { ('{', '}') } else { ('[', ']') };
    let modules = ["depot", "signals", "crew", "power"];
    let name = |module: &str, number: usize| format!("{}-part-{number}", &module[..2]);
    let of_module = |module: &str| {
        let item = |number: usize| {
            let (other, name_of) = (modules[number % 4], name(module, number));
            let needs = format!("{other}.{}", name(other, (number * 5 + 1) % 8));
            let code = format!("\"code\": \"velmora.{module}.Part{number}\", \"needs\": [\"{needs}\"]");
            format!("{}{{ \"kind\": \"part\", \"name\": \"{name_of}\", {code} }}", key(&name_of))
        };
        let dial = |number: usize| {
            let name = format!("{}-dial-{number}", &module[..2]);
            format!("{}{{ \"kind\": \"dial\", \"name\": \"{name}\", \"at\": {number} }}", key(&name))
        };
        let all: Vec<String> = (0..8).map(item).chain((0..4).map(dial)).collect();
        format!(
            "\"{module}\": {{ \"uses\": [\"{}\"], \"{field}\": {begin}{}{end} }}",
            modules.join("\", \""),
            all.join(", ")
        )
    };
    let text = format!("{{ \"areas\": {{ {} }} }}", modules.map(of_module).join(", "));
    let text = draft(&files(&[("net.json", &text)])).text();
    let service = text.split("[[reader.take]]").find(|take| take.contains("what = \"service\"")).unwrap();
    assert_eq!(lines(service, "module = { key = true, above = "), [above], "{text}");
    assert!(service.contains("form = \"{module}.{}\""), "{text}");
}

/// Names that are unique in their group alone mean what is in it, also of those that nobody asks for by both.
#[rstest]
#[case::under_keys(false)]
#[case::in_lists(true)]
fn names_local_to_a_group_mean_its_own(#[case] are_lists: bool) {
    let modules = ["depot", "signals", "crew", "power"];
    let of_module = |number: usize| {
        let (module, far) = (modules[number], modules[(number + 1) % 4]);
        let part = |number: usize| {
            let own = (number + 1) % 8;
            let needs = format!("[\"@gate-{own}\", \"@{far}.gate-{number}\", \"%wait\", \"%late-{module}\"]");
            let said = format!("\"code\": \"velmora.{module}.Gate{number}\", \"needs\": {needs}");
            if are_lists {
                format!("{{ \"id\": \"gate-{number}\", {said} }}")
            } else {
                format!("\"gate-{number}\": {{ {said} }}")
            }
        };
        let parts = (0..8).map(part).collect::<Vec<_>>().join(", ");
        let waits = format!("\"wait\": {number}, \"late-{module}\": {number}");
        let page = |number: usize| format!("\"{module}-page-{number}\": [\"@gate-{number}\"]");
        let pages = (0..3).map(page).collect::<Vec<_>>().join(", ");
        if are_lists {
            format!(
                "{{ \"area\": \"{module}\", \"parts\": [{parts}], \"waits\": {{ {waits} }}, \"pages\": {{ {pages} }} }}"
            )
        } else {
            format!(
                "\"{module}\": {{ \"parts\": {{ {parts} }}, \"waits\": {{ {waits} }}, \"pages\": {{ {pages} }} }}"
            )
        }
    };
    let all = (0..4).map(of_module).collect::<Vec<_>>().join(", ");
    let text =
        if are_lists { format!("{{ \"areas\": [{all}] }}") } else { format!("{{ \"areas\": {{ {all} }} }}") };
    let draft = draft(&files(&[("net.json", &text)])).text();
    let wiring = corvant_testing::wiring([("net.json", text.as_str()), ("corvant.toml", draft.as_str())]);
    let facts = &wiring.facts;
    let needs: usize = facts.services.iter().map(|service| service.needs.of(&facts.parts).len()).sum();
    let asked: usize = facts.entries.iter().map(|entry| entry.needs.of(&facts.parts).len()).sum();
    assert_eq!((facts.services.len(), needs, facts.settings.len(), asked), (32, 128, 8, 12), "{draft}");
    let defined = |name| wiring.is_defined_anywhere(name);
    let of_service = |need: &corvant_core::facts::Need| match need.target {
        corvant_core::facts::Target::Service(name) => Some(defined(name)),
        _ => None,
    };
    assert!(facts.parts.needs.iter().filter_map(of_service).all(|is_defined| is_defined), "{draft}");
    let modules: std::collections::BTreeSet<_> = facts
        .entries
        .iter()
        .map(|entry| wiring.text(entry.id.name).split('-').next().unwrap_or_default())
        .collect();
    assert_eq!(modules.len(), 4);
}

/// Of sorts in one list those that nobody asks for are called as the others are.
#[test]
fn sorts_that_nobody_asks_for_are_called_as_the_others() {
    let item = |(module, number): (&str, usize)| {
        let own = format!("\"area\": \"{module}\", \"name\"");
        format!(
            "{{ \"sort\": \"part\", {own}: \"gate-{number}\", \"code\": \"velmora.{module}.Gate{number}\", \"needs\": [\"{module}.gate-{}\"] }}, {{ \"sort\": \"page\", {own}: \"{module}-{number}\", \"needs\": [\"{module}.gate-{number}\"] }}",
            (number + 1) % 6
        )
    };
    let all =
        ["depot", "crew", "power"].into_iter().flat_map(|module| (0..6).map(move |number| (module, number)));
    let text = format!("[{}]", all.map(item).collect::<Vec<_>>().join(", "));
    let text = draft(&files(&[("net.json", &text)])).text();
    assert_eq!(lines(&text, "id = "), ["{ joined = [\"$.area\", \"$.name\"] }"; 2], "{text}");
}

/// Lists of what was found somewhere name ids too, and define nothing.
#[test]
fn lines_that_name_ids_are_no_definitions() {
    let mut all = of_modules("M.yaml", |module| {
        let part = |number: usize| {
            format!(
                "{module}.gate-{number}: {{ code: velmora.Gate{number}, needs: [{module}.gate-{}] }}\n",
                (number + 1) % 9
            )
        };
        (0..9).map(part).collect()
    });
    let found = |number: usize| {
        format!(
            "missing depot.gate-{number} in crew.gate-{number}\nstarted crew.gate-{number} in {number} s\n"
        )
    };
    all.push(("found.txt".to_owned(), (0..9).map(found).collect()));
    // Nor do lines that begin with words at first, and with anything later.
    let later = (0..90).map(|number| if number < 45 { "rule".to_owned() } else { format!("{number}") });
    let later = later
        .enumerate()
        .map(|(at, first)| format!("{first} velmora.Zone{} crew.gate-{} {at}\n", at % 7, at % 9));
    all.push(("zones.list".to_owned(), later.collect()));
    let draft = draft(&all);
    assert_eq!(draft.families.iter().map(|family| family.glob.as_str()).collect::<Vec<_>>(), ["*.yaml"]);
}

/// Pairs that speak of one thing again and again say more of it, in lists beside.
#[test]
fn lists_of_pairs_say_more_of_items() {
    let files = of_modules("M.yaml", |module| {
        let pair = |one: String, other: String| format!("  - [{one}, {other}]\n");
        let gate = |number: usize| format!("{module}.gate-{}", number % 8);
        let types: String = (0..8).map(|at| pair(gate(at), format!("velmora.{module}.Gate{at}"))).collect();
        let links: String = (0..16).map(|at| pair(gate(at / 2), gate(at + 3))).collect();
        let reads: String = (0..4).map(|at| pair(gate(at), format!("{module}.wait"))).collect();
        let pages: String = (0..4).map(|at| pair(format!("open-{module}-{}", at / 2), gate(at))).collect();
        let waits =
            pair(format!("{module}.wait"), "4".to_owned()) + &pair(format!("{module}.late"), "5".to_owned());
        format!("types:\n{types}links:\n{links}reads:\n{reads}pages:\n{pages}waits:\n{waits}")
    });
    let draft = draft(&files).text();
    let all = files.iter().map(|(path, text)| (path.as_str(), text.as_str()));
    let wiring = corvant_testing::wiring(all.chain([("corvant.toml", draft.as_str())]));
    let facts = &wiring.facts;
    let needs: usize = facts.services.iter().map(|service| service.needs.of(&facts.parts).len()).sum();
    let typed = facts.services.iter().filter(|service| service.type_name.is_some()).count();
    assert_eq!((facts.services.len(), typed, needs), (40, 40, 100), "{draft}");
    assert_eq!((facts.entries.len(), facts.settings.len()), (10, 10), "{draft}");
}

/// What is a service in one file may have its needs, and what it offers, in others.
#[test]
fn files_may_say_more_of_what_others_define() {
    let said = |module: &str, write: &dyn Fn(usize) -> String| -> String {
        (0..8).map(|number| format!("{module}.gate-{number}: {}\n", write(number))).collect()
    };
    let mut files =
        of_modules("M/types.yaml", |module| said(module, &|number| format!("velmora.{module}.Gate{number}")));
    let need = |module: &str, number: usize| {
        format!("[{module}.gate-{}, crew.gate-{}]", (number + 1) % 8, (number + 2) % 8)
    };
    files.extend(of_modules("M/needs.yaml", |module| said(module, &|number| need(module, number))));
    files.extend(of_modules("M/asks.yaml", |module| {
        said(module, &|number| format!("[Role{}, Role{}]", (number + 1) % 8, (number + 3) % 8))
    }));
    files.extend(of_modules("M/plays.yaml", |module| said(module, &|number| format!("Role{number}"))));
    // What nobody can tell apart from a note is none of that.
    files.extend(of_modules("M/notes.yaml", |module| {
        said(module, &|number| format!("checked {number} times"))
    }));
    let text = draft(&files).text();
    assert_eq!(lines(&text, "amends = true").len(), 3, "{text}");
    assert_eq!(
        lines(&text, "slot = "),
        ["{ number = true, form = \"asks-{}\" }", "{ number = true, form = \"needs-{}\" }"],
        "{text}"
    );
    let all = files.iter().map(|(path, text)| (path.as_str(), text.as_str()));
    let wiring = corvant_testing::wiring(all.chain([("corvant.toml", text.as_str())]));
    let report = corvant_core::audit::audit(&wiring, &corvant_core::audit::Options::default());
    let found: HashSet<&str> = report.findings.iter().map(|finding| finding.rule.name).collect();
    assert!(
        !found.contains("duplicate-service") && !found.contains("missing-implementation"),
        "{found:?}\n{text}"
    );
    let needs = |service: &corvant_core::facts::Service| service.needs.of(&wiring.facts.parts).len();
    assert_eq!(wiring.facts.services.iter().map(needs).max(), Some(4), "{text}");
}

/// What several lines or keys of one file say of one entry is said of one.
#[rstest]
#[case::lines("M.says", "part M -> velmora.M.Page\n", "page M-page-H -> M.gate-N\n")]
#[case::keys("M.properties", "", "M-page-H.opens.N = M.gate-N\n")]
#[case::keys_with_brackets("M.properties", "", "M-page-H.opens[N] = M.gate-N\n")]
fn what_is_said_of_one_entry_again_and_again_belongs_together(
    #[case] path: &str,
    #[case] first: &str,
    #[case] page: &str,
) {
    let mut files = of_modules("parts/M.yaml", |module| {
        let next = |number: usize| format!("{module}.gate-{}", (number + 1) % 8);
        let part = |number: usize| format!("{{ code: velmora.Gate{number}, needs: [{}] }}", next(number));
        (0..8).map(|number| format!("{module}.gate-{number}: {}\n", part(number))).collect()
    });
    files.extend(of_modules(path, |module| {
        let page = |number: usize| {
            let text = page.replace('N', &number.to_string());
            text.replace('H', &(number / 2).to_string())
        };
        let text = first.to_owned() + &(0..8).map(page).collect::<String>();
        text.replace('M', module)
    }));
    let draft = draft(&files).text();
    let all = files.iter().map(|(path, text)| (path.as_str(), text.as_str()));
    let wiring = corvant_testing::wiring(all.chain([("corvant.toml", draft.as_str())]));
    assert!(wiring.facts.entries.len() >= 20, "{draft}");
    assert_eq!(repeated(&wiring), 0, "{draft}");
}

/// The first line of each file may say what stands in the columns.
#[test]
fn heads_of_columns_are_no_items() {
    let files = of_modules("M.csv", |module| {
        let line = |number: usize| {
            format!(
                "{module}.gate-{number};velmora.{module}.Gate{number};{module}.gate-{}\n",
                (number + 1) % 9
            )
        };
        format!("name;made of;needs\n{}", (0..9).map(line).collect::<String>())
    });
    let draft = draft(&files).text();
    let all = files.iter().map(|(path, text)| (path.as_str(), text.as_str()));
    let wiring = corvant_testing::wiring(all.chain([("corvant.toml", draft.as_str())]));
    assert_eq!(wiring.facts.services.len(), 45, "{draft}");
    assert!(wiring.facts.services.iter().all(|service| service.type_name.is_some()), "{draft}");
}

/// The one alias, and the one choice, of a house may be misspelt: they are that all the same.
#[test]
fn what_is_alone_and_misspelt_is_told() {
    let file = |module: &str| {
        let part = |number: usize| {
            let next = (number + 1) % 6;
            format!(
                "  {module}.gate-{number}: {{ code: velmora.{module}.Gate{number}, role: Role{number}, gets: [{module}.gate-{next}, all.gates], asks: [Role{next}] }}\n"
            )
        };
        (0..6).map(part).collect::<String>()
    };
    let text = |alias: &str, choice: &str| {
        format!(
            "parts:\n{}{}also:\n  all.gates: {alias}\nfirst:\n  Role1: {choice}\n",
            file("depot"),
            file("crew")
        )
    };
    let roles = |text: &str| {
        let text = draft(&files(&[("net.yaml", text)])).text();
        lines(&text, "alias-of = ").len() + lines(&text, "contract = { key = true }").len()
    };
    assert_eq!(roles(&text("depot.gate-1", "crew.gate-1")), 2);
    assert_eq!(roles(&text("depot.gatte-1", "crew.gat-1")), 2);
    assert_eq!(roles(&text("at night", "every day")), 0, "they may be anything");
}

/// What is called as something of its own module, once and beside what names another, is a name of its own.
#[test]
fn one_name_beside_references_is_no_reference() {
    let example = "/../../examples/readers/definitions-xml/definitions/passenger.xml";
    let file =
        std::fs::read_to_string(concat!(env!("CARGO_MANIFEST_DIR"), "/").to_owned() + example).unwrap();
    let text = draft(&files(&[("definitions/passenger.xml", &file)])).text();
    assert!(text.contains("each = \"$['d:argumnet'][?@['@to']]\""), "{text}");
    assert!(!text.contains("each = \"$['d:argumnet'][?@['@slot']]\""), "{text}");
}

/// Sections of several sorts have fields of their own; a misspelt field makes no sort.
#[test]
fn sections_of_sorts_are_told_apart_by_their_fields() {
    let file = |module: &str| {
        let part = |number: usize| {
            let class = if module == "depot" && number == 3 { "clas" } else { "class" };
            let uses = format!("{module}.part-{}, {module}.cars", (number + 1) % 5);
            format!("[{module}.part-{number}]\n{class}: velmora.{module}.Part{number}\nuses: {uses}\n")
        };
        let parts: String = (0..5).map(part).collect();
        format!("{parts}[{module}.cars]\nnumber: 7\n[open-{module}]\nopens: {module}.part-1\n")
    };
    let all = of_modules("M.ini", file);
    let text = draft(&all).text();
    assert_eq!(each(&text).iter().filter(|each| each.contains("[?@.")).count(), 0, "{text}");
    let spelt: Files = all.into_iter().map(|(path, text)| (path, text.replace("clas:", "class:"))).collect();
    let text = draft(&spelt).text();
    let each = each(&text);
    for field in ["class", "number", "opens"] {
        assert!(each.contains(&format!("$[?@.{field}]").as_str()), "{text}");
    }
}

/// Which of two fields says who needs something is told by what they are called where nothing else tells it.
#[rstest]
#[case::who_first("holder", "part", "$.holder")]
#[case::what_first("needs", "holder", "$.holder")]
#[case::in_any_words("one", "other", "$.one")]
fn lists_of_who_needs_what_say_more_of_items(#[case] first: &str, #[case] second: &str, #[case] id: &str) {
    let file = |module: &str| {
        let name = |number: usize| format!("{module}.part-{number}");
        let part =
            |number: usize| format!("  - {{ id: {}, code: velmora.{module}.Part{number} }}\n", name(number));
        let line = |number: usize| {
            let (who, what) = (name(number % 9), name((number * 7 + number / 9 + 1) % 12));
            let (one, other) = if first == "needs" { (what, who) } else { (who, what) };
            format!("  - {{ {first}: {one}, {second}: {other} }}\n")
        };
        let (parts, edges) = ((0..12).map(part).collect::<String>(), (0..30).map(line).collect::<String>());
        format!("module: {module}\nparts:\n{parts}lines:\n{edges}")
    };
    let text = draft(&of_modules("M.yaml", file)).text();
    let edges = text.split("[[reader.take]]").find(|take| take.contains("$.lines[*]")).unwrap();
    assert!(edges.contains("merge = true") && edges.contains(&format!("id = \"{id}\"")), "{text}");
    assert!(edges.contains("service = \"$\""), "{text}");
}

/// Two beginnings speak of the same items, each in several keys: all of one id belong together, and that is said once a take.
#[test]
fn flat_keys_of_several_beginnings_are_one_item() {
    let part = |number: usize| {
        let (own, other) = (format!("depot.gate-{number}"), format!("depot.gate-{}", (number + 1) % 12));
        format!(
            "class.{own} = velmora.Gate{number}\nclass.{own}.note = made\nuse.{own} = {other}\nuse.{own}.note = kept\n"
        )
    };
    let text: String = (0..12).map(part).collect();
    let draft = draft(&files(&[("wiring.properties", &text)])).text();
    let all = [("wiring.properties", text.as_str()), ("corvant.toml", draft.as_str())];
    let workspace =
        corvant_read::workspace::from_texts(all).unwrap_or_else(|error| panic!("{error}\n{draft}"));
    let facts = workspace.link().0.facts;
    let needs = facts.services.iter().map(|service| service.needs.of(&facts.parts).len());
    assert_eq!((facts.services.len(), needs.sum::<usize>()), (12, 12), "{draft}");
}

/// A sign before names of one sort alone says which sort, and not that they need not be there.
#[test]
fn signs_that_say_a_sort_are_no_signs_of_optional_names() {
    let files = of_modules("M.yaml", |module| {
        let part = |number: usize| {
            format!(
                "  {module}.gate-{number}: {{ code: velmora.{module}.Gate{number}, needs: [{module}.gate-{}, '*Role{number}{module}'] }}\n",
                (number + 1) % 12
            )
        };
        let role = |number: usize| format!("  Role{number}{module}: {module}.gate-{number}\n");
        let (parts, roles): (String, String) = (0..12).map(|number| (part(number), role(number))).unzip();
        format!("parts:\n{parts}roles:\n{roles}")
    });
    let text = draft(&files).text();
    let expected = ["'^\\*(?<service>[\\w.\\\\-]+)$'", "'^(?<service>[\\w.\\\\-]+)$'"];
    assert_eq!(lines(&text, "match = "), expected, "{text}");
}

/// Items of groups that are elements of a list are called by what those are called and by their own names.
#[rstest]
#[case::lists(
    "city.yaml",
    ["- name: M\n  parts:\n", ""],
    "    - { name: gate-N, code: velmora.M.GateN, needs: [M.gate-O] }\n",
    "{ from = \"$.name\", above = 1 }"
)]
#[case::elements(
    "city.xml",
    ["<area name='M'>", "</area>"],
    "<part name='gate-N' code='velmora.M.GateN'><needs name='M.gate-O'/></part>",
    "{ from = \"$['@name']\", above = 1 }"
)]
fn names_in_elements_of_groups_are_asked_for_by_both(
    #[case] path: &str,
    #[case] area: [&str; 2],
    #[case] part: &str,
    #[case] module: &str,
) {
    let areas = of_modules("M", |module| {
        let part = |number: usize| {
            part.replace('N', &number.to_string()).replace('O', &((number + 1) % 6).to_string())
        };
        let parts: String = (0..6).map(part).collect();
        [area[0], &parts, area[1]].concat().replace('M', module)
    });
    let areas: String = areas.into_iter().map(|(_, text)| text).collect();
    let text = if path.ends_with("xml") { format!("<city>{areas}</city>") } else { areas };
    let text = draft(&files(&[(path, &text)])).text();
    assert_eq!(lines(&text, "module = "), ["{ constant = \"city\" }", module], "{text}");
    assert!(lines(&text, "id = ")[0].ends_with("form = \"{module}.{}\" }"), "{text}");
    assert!(text.contains("30 of 30 name what is defined"), "{text}");
}

/// Sections whose items have nothing in common are sorts, although pointers name them before the items.
#[test]
fn sections_that_pointers_name_are_no_modules() {
    let files = of_modules("M.json", |module| {
        let unit = |number: usize| {
            format!(
                "\"{module}.gate-{number}\": {{\"code\": \"velmora.{module}.Gate{number}\", \"with\": [\"#/units/{module}.gate-{}\", \"#/numbers/{module}.wait\"]}}",
                (number + 1) % 6
            )
        };
        let units: Vec<String> = (0..6).map(unit).collect();
        format!(
            "{{\"units\": {{{}}}, \"numbers\": {{\"{module}.wait\": {{\"value\": 3}}, \"{module}.most\": {{\"value\": 4}}}}}}",
            units.join(", ")
        )
    });
    let text = draft(&files).text();
    assert_eq!(each(&text), ["$.numbers.*", "$.units.*", "$.with[*]"], "{text}");
    assert_eq!(lines(&text, "what = "), ["\"setting\"", "\"service\""], "{text}");
}

/// What three keys lead to is called by all of them.
#[test]
fn names_of_several_keys_are_those_of_maps() {
    let files = of_modules("M.yaml", |module| {
        let gate = |side: &str, other: &str, number: usize| {
            format!(
                "    gate-{number}: {{ code: velmora.{module}.{side}{number}, needs: [{module}.{other}.gate-{number}] }}\n"
            )
        };
        let side = |side: &str, other: &str| {
            let gates: String = (0..6).map(|number| gate(side, other, number)).collect();
            format!("  {side}:\n{gates}")
        };
        format!("{module}:\n{}{}", side("Left", "Right"), side("Right", "Left"))
    });
    let text = draft(&files).text();
    assert_eq!(each(&text), ["$.*.*.*", "$.needs[*]"], "{text}");
    assert_eq!(lines(&text, "id = "), ["{ key-path = true }"], "{text}");
}

/// Where files of one sort are items and those of other sorts hold some, both are taken, by what tells them apart.
#[rstest]
#[case::a_word("sort: ", "only-where = { from = \"$.sort\", match = \"^Part$\" }")]
#[case::a_text("# ", "only-where = \"$.label.name\"")]
fn files_that_are_items_may_lie_beside_files_that_hold_some(#[case] sort: &str, #[case] which: &str) {
    let mut all = of_modules("M/numbers.yaml", |module| {
        format!("{sort}Numbers\nnumbers:\n  {module}.wait: 3\n  {module}.most: 4\n")
    });
    for number in 0..6 {
        all.extend(of_modules(&format!("M/M-{number}.yaml"), |module| {
            let other = (number + 1) % 6;
            format!(
                "{sort}Part\nlabel: {{ name: {module}.gate-{number}, team: {module} }}\nbody:\n  run: {{ code: velmora.{module}.Gate{number}, threads: 2 }}\n  inputs:\n    - {{ name: in-0, from: {{ part: {module}.gate-{other} }} }}\n    - {{ name: in-1, from: {{ number: {module}.wait }} }}\n"
            )
        }));
    }
    let text = draft(&all).text();
    assert_eq!(
        each(&text),
        ["$.numbers.*", "$.body.inputs[?@.from.number]", "$.body.inputs[?@.from.part]"],
        "{text}"
    );
    for line in [
        which,
        "id = \"$.label.name\"",
        "type = \"$.body.run.code\"",
        "service = \"$.from.part\"",
        "setting = \"$.from.number\"",
    ] {
        assert_eq!(lines(&text, line).len(), 1, "{line}\n{text}");
    }
}

/// Some modules' files; `write` says what is in that of one, whose name is its argument.
fn of_modules(path: &str, write: impl Fn(&str) -> String) -> Files {
    let modules = ["depot", "signals", "crew", "power", "boards"];
    modules.iter().map(|module| (path.replace('M', module), write(module))).collect()
}

/// What is in each line of a draft that begins so.
fn lines<'t>(text: &'t str, beginning: &str) -> Vec<&'t str> {
    let lines = text.lines().filter_map(|line| line.strip_prefix(beginning));
    lines.map(|line| line.split("  ").next().unwrap_or(line)).collect()
}

/// Where items and what they ask for stand.
fn each(text: &str) -> Vec<&str> {
    lines(text, "each = ").into_iter().map(|path| path.trim_matches('"')).collect()
}

/// What an entry asks for may be another in each: that makes it no id.
#[rstest]
#[case::bare("")]
#[case::behind_a_word("use ")]
#[case::in_brackets("use(")]
fn what_asks_is_no_id(#[case] before: &str) {
    let after = if before.ends_with('(') { ")" } else { "" };
    let files = of_modules("wiring/M.yaml", |module| {
        let part = |number: usize| {
            format!(
                "- id: {module}.gate-{number}\n  code: velmora.{module}.Gate{number}\n  takes: [{before}{module}.gate-{}{after}]\n",
                (number + 1) % 12
            )
        };
        let call = |number: usize| {
            format!("- path: /{module}/{number}\n  call: {before}{module}.gate-{number}{after}\n")
        };
        let parts: String = (0..12).map(part).collect();
        format!("parts:\n{parts}calls:\n{}", (0..4).map(call).collect::<String>())
    });
    let text = draft(&files).text();
    assert_eq!(lines(&text, "id = "), ["\"$.path\"", "\"$.id\""], "{text}");
    assert_eq!(lines(&text, "what = "), ["\"entry\"", "\"service\""], "{text}");
}

/// A file for each entry, which asks for a service of its own: that makes the service's name no id of what asks.
#[test]
fn what_each_file_asks_for_once_is_no_item() {
    let part = |number: usize| {
        let text = format!(
            "id: depot.gate-{number}\ntype: velmora.Gate{number}\ntakes: [{{ part: depot.gate-{} }}]\n",
            (number + 1) % 40
        );
        (format!("depot/parts/gate-{number}.yaml"), text)
    };
    let call = |number: usize| {
        let text = format!("id: open-{number}\ntakes: [{{ part: depot.gate-{number} }}]\n");
        (format!("depot/calls/open-{number}.yaml"), text)
    };
    let text = draft(&(0..40).map(part).chain((0..20).map(call)).collect()).text();
    assert_eq!(lines(&text, "what = "), ["\"entry\"", "\"service\""], "{text}");
    assert_eq!(lines(&text, "id = "), ["\"$.id\"", "\"$.id\""], "{text}");
}

/// A document for each thing, under the name of its sort.
#[test]
fn documents_under_the_name_of_their_sort_are_items() {
    let files = of_modules("M/wiring.yml", |module| {
        let part = |number: usize| {
            let other = (number + 1) % 12;
            format!(
                "service:\n  id: {module}.gate-{number}\n  code: velmora.{module}.Gate{number}\n  takes: [{{ ref: {module}.gate-{other} }}, {{ value: {module}.wait-{} }}]\n",
                number % 4
            )
        };
        let setting = |number: usize| format!("setting:\n  id: {module}.wait-{number}\n  is: {number}\n");
        let documents: Vec<String> = (0..12).map(part).chain((0..4).map(setting)).collect();
        documents.join("---\n")
    });
    let text = draft(&files).text();
    assert_eq!(
        lines(&text, "each = "),
        ["\"$.service\"", "\"$.takes[?@.ref]\"", "\"$.takes[?@.value]\"", "\"$.setting\""],
        "{text}"
    );
    assert_eq!(lines(&text, "id = "), ["\"$.id\"", "\"$.id\""], "{text}");
}

/// Where names are bound to types that are called otherwise, those are contracts; where the types are called so, they are ids.
#[rstest]
#[case::contracts("Opens", ["\"$.built\""], ["\"$.name\""])]
#[case::contracts_with_packages("velmora.api.", ["\"$.built\""], ["\"$.name\""])]
#[case::ids("", ["\"$.name\""], [])]
fn names_bound_to_types_are_contracts(
    #[case] before: &str,
    #[case] ids: [&str; 1],
    #[case] offers: impl IntoIterator<Item = &'static str>,
) {
    let files = of_modules("M/bindings.json", |module| {
        let name = |number: usize| format!("{before}Gate{number}{module}");
        let binding = |number: usize| {
            format!(
                "{{\"name\": \"{}\", \"built\": \"velmora.{module}.Gate{number}{module}\", \"from\": [\"{}\"]}}",
                name(number),
                name((number + 1) % 12)
            )
        };
        format!("{{\"bindings\": [{}]}}", (0..12).map(binding).collect::<Vec<_>>().join(","))
    });
    let text = draft(&files).text();
    assert_eq!(lines(&text, "id = "), ids, "{text}");
    assert_eq!(lines(&text, "offers = "), offers.into_iter().collect::<Vec<_>>(), "{text}");
}

/// Files of one name in folders of several sorts are of several sorts; names without their module are known behind it.
#[test]
fn folders_say_what_is_in_them() {
    let services = |module: &str| {
        let part = |number: usize| {
            format!(
                "{module}.gate-{number}:\n  code: velmora.{module}.Gate{number}\n  takes: {module}.gate-{}\n  reads: {module}.wait.seconds-{}\n",
                (number + 1) % 12,
                number % 4
            )
        };
        (0..12).map(part).collect::<String>()
    };
    let mut files = of_modules("workers/M.yaml", services);
    files.extend(of_modules("settings/M.yaml", |_| {
        (0..4).map(|number| format!("wait.seconds-{number}: {number}\n")).collect()
    }));
    files.extend(of_modules("calls/M.yaml", |module| {
        (0..3).map(|number| format!("open-{module}-{number}: [{module}.gate-{number}]\n")).collect()
    }));
    let draft = draft(&files);
    let text = draft.text();
    let globs: Vec<&str> = draft.families.iter().map(|family| family.glob.as_str()).collect();
    assert_eq!(globs, ["calls/*.yaml", "settings/*.yaml", "workers/*.yaml"], "{text}");
    assert_eq!(lines(&text, "what = "), ["\"entry\"", "\"setting\"", "\"service\""], "{text}");
    assert!(text.contains("id = { key = true, form = \"{module}.{}\" }"), "{text}");
}

/// Large files are of one shape as small ones are, whatever names stand in them beside the same keys.
#[test]
fn large_files_with_many_names_are_one_family() {
    let file = |number: usize| {
        let numbers: String = (0..60).map(|at| format!("m{number}.seconds_{at} = {at}\n")).collect();
        let part = |part: usize| {
            let (other, seconds) = ((part * 7 + 1) % 250, part % 60);
            format!(
                "\n[part m{number}.p{part}]\nclass = velmora.m{number}.Part{part}\nuses = m{number}.p{other}\nreads = m{number}.seconds_{seconds}\n"
            )
        };
        let text = format!("[numbers]\n{numbers}{}", (0..250).map(part).collect::<String>());
        (format!("setup/m{number}.ini"), text)
    };
    let draft = draft(&(0..8).map(file).collect());
    assert_eq!(draft.families.len(), 1, "{:?}", draft.families);
    let family = &draft.families[0];
    assert_eq!((family.glob.as_str(), family.files), ("setup/*.ini", 8));
    assert!(family.items.contains(&("service", 2_000)), "{:?}", family.items);
}

/// Whatever lies there: a draft is made, and can be used.
#[rstest]
#[case::nothing(&[])]
#[case::empty_files(&[("a.yaml", ""), ("b.json", ""), ("c.xml", ""), ("d.ini", ""), ("e.toml", ""), ("f.properties", "")])]
#[case::broken(&[("a.yaml", "a: [b"), ("b.json", "{"), ("c.xml", "<a>"), ("d.toml", "a =")])]
#[case::plain(&[("a.yaml", "only text"), ("b.json", "3"), ("c.json", "[]"), ("d.json", "[[[]]]")])]
#[case::quotes(&[("a\"b/c'd.yaml", "x:\n  a'\"b\\: { t: v.W, n: [\"q'\\\\z\"] }\n  \"q'\\\\z\": { t: v.X }\n")])]
#[case::itself(&[("a.yaml", "x:\n  a: { t: v.W, n: [a, b] }\n  b: { t: v.X, n: [a] }\n")])]
#[case::records(&[("a.rec", "A: 1\nB: 2\n\nA: 2\nB: 1\n\nC: 3\n")])]
fn drafts_can_be_used_whatever_lies_there(#[case] given: &[(&str, &str)]) {
    let files = files(given);
    let text = draft(&files).text();
    let all = || files.iter().map(|(path, text)| (path.as_str(), text.as_str()));
    let native = ("z.wiring.yaml", "corvant: 1\nmodule: z\nentries: { e: {} }\n");
    let read = corvant_read::workspace::from_texts(all().chain([native, ("corvant.toml", text.as_str())]));
    assert!(read.is_ok(), "{}\n{text}", read.unwrap_err());
}

#[test]
fn deep_and_wide_files_take_no_longer_than_others() {
    let deep = format!("{}1{}", "[".repeat(200), "]".repeat(200));
    let nested = format!("{}{}{}", "{\"a\":".repeat(200), 1, "}".repeat(200));
    let wide: String = (0..20_000).map(|number| format!("k{number}: {{ a{number}: {number} }}\n")).collect();
    let draft = draft(&files(&[("deep.json", &deep), ("nested.json", &nested), ("wide.yaml", &wide)]));
    assert_eq!(draft.seen.candidates, 3);
}
