//! Made workspaces of any size, clean or with faults whose findings are known.
//!
//! Every file holds twenty services that build on one another, offers contracts, carries and collects tags,
//! has settings and one entry, and needs services and contracts of earlier files. The same seed always makes
//! the same text.

use std::collections::BTreeSet;
use std::fmt::Write;

/// Services in a file.
pub const SERVICES: usize = 20;
/// Files of a module.
const FILES: usize = 5;
/// One file in so many has a fault, where there are faults.
const FAULT_EVERY: usize = 8;

const WORDS: [&str; SERVICES] = [
    "archive", "board", "clock", "depot", "engine", "feed", "gate", "horizon", "incident", "journal",
    "kiosk", "line", "monitor", "notice", "operator", "platform", "queue", "roster", "signal", "track",
];

/// Random numbers that are the same everywhere: G. Steele, D. Lea and C. Flood's SplitMix64 (2014).
#[derive(Debug, Clone)]
pub struct Random(u64);

impl Random {
    /// Numbers that depend on the seed alone.
    pub fn new(seed: u64) -> Self {
        Self(seed)
    }

    /// A number below `bound`.
    pub fn below(&mut self, bound: usize) -> usize {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut mixed = self.0;
        mixed = (mixed ^ (mixed >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        mixed = (mixed ^ (mixed >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        ((mixed ^ (mixed >> 31)) % bound.max(1) as u64) as usize
    }
}

/// A kind of fault that can be put into a file.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Fault {
    MissingService,
    MissingImplementation,
    MissingKey,
    MissingSetting,
    ServiceCycle,
    UnusedService,
    UnknownTag,
    TagAttribute,
    AmbiguousImplementation,
    DuplicateService,
    ChoiceMismatch,
    UnknownField,
    WrongShape,
    RepeatedField,
    MissingModule,
    MissingCarrier,
    DefinitionCycle,
    UnusedAlias,
    UnusedSetting,
    UnusedContract,
    UnusedTag,
    UnusedChoice,
    StaleAllowance,
    TagContract,
    UntaggedService,
    RepeatedTag,
    UncollectedTag,
    DuplicateKey,
    DuplicateDefault,
    LookalikeId,
    ShortLivedNeed,
    EmptyPromise,
    HiddenNeed,
    LookupOfMissing,
    UnmetExpectation,
    MissingServiceByAlias,
}

const FAULTS: [Fault; 36] = [
    Fault::MissingService,
    Fault::MissingImplementation,
    Fault::MissingKey,
    Fault::MissingSetting,
    Fault::ServiceCycle,
    Fault::UnusedService,
    Fault::UnknownTag,
    Fault::TagAttribute,
    Fault::AmbiguousImplementation,
    Fault::DuplicateService,
    Fault::ChoiceMismatch,
    Fault::UnknownField,
    Fault::WrongShape,
    Fault::RepeatedField,
    Fault::MissingModule,
    Fault::MissingCarrier,
    Fault::DefinitionCycle,
    Fault::UnusedAlias,
    Fault::UnusedSetting,
    Fault::UnusedContract,
    Fault::UnusedTag,
    Fault::UnusedChoice,
    Fault::StaleAllowance,
    Fault::TagContract,
    Fault::UntaggedService,
    Fault::RepeatedTag,
    Fault::UncollectedTag,
    Fault::DuplicateKey,
    Fault::DuplicateDefault,
    Fault::LookalikeId,
    Fault::ShortLivedNeed,
    Fault::EmptyPromise,
    Fault::HiddenNeed,
    Fault::LookupOfMissing,
    Fault::UnmetExpectation,
    Fault::MissingServiceByAlias,
];

/// A made file, and what must be found because of it.
#[derive(Debug)]
pub struct File {
    /// Its path below the root.
    pub path: String,
    /// Its text.
    pub text: String,
    /// Rule and subject of the finding that its fault makes.
    pub expected: Option<(&'static str, String)>,
}

/// The files of a workspace of about `services` services, made one by one.
pub fn corpus(services: usize, faulty: bool, seed: u64) -> impl Iterator<Item = File> {
    let files = services.div_ceil(SERVICES).max(1);
    let mut random = Random::new(seed);
    (0..files).map(move |file| {
        let has_fault = faulty && random.below(FAULT_EVERY) == 0;
        let fault = has_fault.then(|| FAULTS[random.below(FAULTS.len())]);
        Writer::new(file, fault).file(files, &mut random)
    })
}

struct Writer {
    file: usize,
    fault: Option<Fault>,
    expected: Option<(&'static str, String)>,
    body: String,
    uses: BTreeSet<usize>,
}

impl Writer {
    fn new(file: usize, fault: Option<Fault>) -> Self {
        Self { file, fault, expected: None, body: String::new(), uses: BTreeSet::new() }
    }

    fn file(mut self, files: usize, random: &mut Random) -> File {
        self.sections(files);
        self.line("services:");
        for number in 0..SERVICES {
            self.service(number, random);
        }
        self.extra_services(files);
        let (prefix, last) = (prefix(self.file), id(self.file, SERVICES - 1));
        self.line("entries:");
        let extra = match self.fault {
            // Whatever looks alike is used all the same; and a line that looks up what is gone.
            Some(Fault::LookalikeId) => format!(", like: {{ contract: Like{} }}", port(self.file)),
            Some(Fault::LookupOfMissing) => {
                self.expect("lookup-of-missing", format!("{prefix}.gone"));
                format!(", gone: {{ service: {prefix}.gone, via: look-up }}")
            }
            _ => String::new(),
        };
        self.line(&format!(
            "  {prefix}.entry:\n    at: GET /{prefix}\n    needs: {{ main: {{ service: {last} }}{extra} }}"
        ));
        let module = self.file / FILES;
        self.uses.remove(&module);
        let mut uses: Vec<String> = self.uses.iter().map(|module| module_name(*module)).collect();
        let name = module_name(module);
        if self.fault == Some(Fault::MissingModule) {
            uses.push(format!("{prefix}.nowhere"));
            self.expect("missing-module", format!("{name} > {prefix}.nowhere"));
        }
        self.extra_sections();
        let header = format!("corvant: 1\nmodule: {name}\nuses: [{}]\n", uses.join(", "));
        let path = format!("modules/{name}/f{}.wiring.yaml", self.file % FILES);
        File { path, text: header + &self.body, expected: self.expected }
    }

    fn line(&mut self, line: &str) {
        self.body.push_str(line);
        self.body.push('\n');
    }

    fn expect(&mut self, rule: &'static str, subject: impl Into<String>) {
        self.expected = Some((rule, subject.into()));
    }

    /// Settings, contracts, tags and choices, with the faults that belong there.
    fn sections(&mut self, files: usize) {
        let (prefix, port) = (prefix(self.file), port(self.file));
        let limit = match self.fault {
            Some(Fault::DefinitionCycle) => {
                self.expect("definition-cycle", format!("{prefix}.address > {prefix}.limit"));
                format!("\"file:${{{prefix}.address}}\"")
            }
            _ => (files % 97).to_string(),
        };
        self.line("settings:");
        self.line(&format!("  {prefix}.limit: {limit}\n  {prefix}.address: \"file:${{{prefix}.limit}}\""));
        match self.fault {
            Some(Fault::RepeatedField) => {
                self.line(&format!("  {prefix}.limit: 31"));
                self.expect("repeated-field", format!("settings.{prefix}.limit"));
            }
            Some(Fault::UnusedSetting) => {
                self.line(&format!("  {prefix}.spare: 31"));
                self.expect("unused-setting", format!("{prefix}.spare"));
            }
            Some(Fault::UnusedContract) => {
                self.line(&format!("contracts:\n  Spare{port}: {{}}"));
                self.expect("unused-contract", format!("Spare{port}"));
            }
            _ => {}
        }
        self.tags();
        let (one, keyed) = (id(self.file, 1), keyed(self.file));
        match self.fault {
            Some(Fault::ChoiceMismatch) => {
                self.line(&format!("choices:\n  {port}: {{ default: {one} }}"));
                self.expect("choice-mismatch", port);
            }
            Some(Fault::UnusedChoice) => {
                let ten = id(self.file, 10);
                self.line(&format!("choices:\n  {keyed}: {{ keys: {{ k99: {ten} }} }}"));
                self.expect("unused-choice", format!("{keyed}#k99"));
            }
            _ => {}
        }
    }

    fn tags(&mut self) {
        let prefix = prefix(self.file);
        self.line(&format!("tags:\n  {prefix}.rule:"));
        self.line("    attributes: { priority: { kind: integer, required: true, unique: true } }");
        let line = match self.fault {
            Some(Fault::MissingCarrier) => {
                self.expect("missing-carrier", format!("{prefix}.rule"));
                "    at-least: 9".to_owned()
            }
            Some(Fault::UnusedTag) => {
                self.expect("unused-tag", format!("{prefix}.idle"));
                format!("  {prefix}.idle: {{}}")
            }
            Some(Fault::UncollectedTag) => {
                self.expect("uncollected-tag", format!("{prefix}.idle"));
                format!("  {prefix}.idle: {{}}")
            }
            Some(Fault::TagContract) => {
                self.expect("tag-contract", id(self.file, 14));
                format!(
                    "  {prefix}.asks: {{ contract: Asked{}, collected-by: {} }}",
                    port(self.file),
                    id(self.file, 18)
                )
            }
            Some(Fault::UntaggedService) => {
                self.expect("untagged-service", id(self.file, 14));
                let (asked, by) = (port(self.file), id(self.file, 18));
                format!(
                    "  {prefix}.asks: {{ contract: Asked{asked}, carried-by-all: true, collected-by: {by} }}"
                )
            }
            _ => return,
        };
        self.line(&line);
    }

    /// Sections after the services that hold nothing but faults.
    fn extra_sections(&mut self) {
        let (prefix, first) = (prefix(self.file), id(self.file, 0));
        match self.fault {
            Some(Fault::EmptyPromise) => {
                self.line(&format!("providers:\n  {prefix}.start: {{ registers: [{prefix}.gone] }}"));
                self.expect("empty-promise", format!("{prefix}.start > {prefix}.gone"));
            }
            Some(Fault::UnmetExpectation) => {
                self.line(&format!("expect:\n  - {{ service: {first}, type: velmora.other }}"));
                self.expect("unmet-expectation", first);
            }
            Some(Fault::StaleAllowance) => {
                self.line(&format!("allow:\n  - {{ rule: unused-service, subject: {first} }}"));
                self.expect("stale-allowance", format!("unused-service {first}"));
            }
            _ => {}
        }
    }

    fn service(&mut self, number: usize, random: &mut Random) {
        let (file, prefix) = (self.file, prefix(self.file));
        let mut fields = vec![format!("type: velmora.{prefix}.{}", WORDS[number])];
        let mut needs = Vec::new();
        if number > 0 {
            needs.push(format!("before: {{ service: {} }}", id(file, number - 1)));
        }
        match number {
            0 => fields.push(format!("offers: [{}]\n    lifetime: process", port(file))),
            4..=6 => {
                let same = number == 5 && self.fault == Some(Fault::TagAttribute);
                let priority = if same { 4 } else { number };
                fields.push(format!("tags:\n      - {prefix}.rule: {{ priority: {priority} }}"));
            }
            8 => needs.push(format!("rules: {{ tag: {prefix}.rule }}")),
            10 | 11 => fields.push(format!("offers: [{}]\n    key: k{number}", keyed(file))),
            12 => needs.push(format!("keyed: {{ contract: {}, key: k10 }}", keyed(file))),
            16 => needs.push(format!("port: {{ contract: {} }}", port(file))),
            _ => {}
        }
        if number % 4 == 1 {
            needs.push(format!("limit: {{ setting: {prefix}.address }}"));
        }
        if number % 5 == 2 && file > 0 {
            let other = self.earlier(random);
            needs.push(format!("other: {{ service: {} }}", id(other, random.below(SERVICES))));
        }
        if number % 7 == 3 && file > 0 {
            let other = self.earlier(random);
            needs.push(format!("source: {{ contract: {}, lazy: true }}", port(other)));
        }
        self.spoil(number, &mut fields, &mut needs);
        let body = &mut self.body;
        writeln!(body, "  {}:\n    {}", id(file, number), fields.join("\n    "))
            .expect("writing to a String");
        if !needs.is_empty() {
            writeln!(body, "    needs:\n      {}", needs.join("\n      ")).expect("writing to a String");
        }
    }

    /// Puts the file's fault into the service it is meant for.
    fn spoil(&mut self, number: usize, fields: &mut Vec<String>, needs: &mut Vec<String>) {
        let Some(fault) = self.fault else { return };
        let (file, prefix) = (self.file, prefix(self.file));
        let service = id(file, number);
        match (fault, number) {
            (Fault::MissingService, 13) => {
                let missing = format!("{prefix}.{}", &WORDS[7][1..]);
                needs.push(format!("extra: {{ service: {missing} }}"));
                self.expect("missing-service", missing);
            }
            (Fault::MissingImplementation, 13) => {
                needs.push(format!("extra: {{ contract: {}x }}", port(file)));
                self.expect("missing-implementation", format!("{}x", port(file)));
            }
            (Fault::MissingKey, 13) => {
                needs.push(format!("extra: {{ contract: {}, key: k12 }}", keyed(file)));
                self.expect("missing-key", format!("{}#k12", keyed(file)));
            }
            (Fault::MissingSetting, 13) => {
                needs.push(format!("extra: {{ setting: {prefix}.limi }}"));
                self.expect("missing-setting", format!("{prefix}.limi"));
            }
            (Fault::ServiceCycle, 3) => {
                needs.push(format!("extra: {{ service: {} }}", id(file, 5)));
                let ring = [id(file, 3), id(file, 5), id(file, 4)];
                self.expect("service-cycle", ring.join(" > "));
            }
            (Fault::UnknownTag, 14) => {
                fields.push(format!("tags: [{prefix}.rul]"));
                self.expect("unknown-tag", format!("{prefix}.rul"));
            }
            (Fault::TagAttribute, 5) => self.expect("tag-attribute", service),
            (Fault::AmbiguousImplementation, 15) => {
                fields.push(format!("offers: [{}]", port(file)));
                self.expect("ambiguous-implementation", port(file));
            }
            (Fault::UncollectedTag, 14) => fields.push(format!("tags: [{prefix}.idle]")),
            (Fault::TagContract, 14) => fields.push(format!("tags: [{prefix}.asks]")),
            (Fault::UntaggedService, 14) => fields.push(format!("offers: [Asked{}]", port(file))),
            (Fault::UntaggedService, 15) => {
                fields.push(format!("offers: [Asked{}]\n    tags: [{prefix}.asks]", port(file)));
            }
            (Fault::RepeatedTag, 6) => {
                fields.push(format!("  - {prefix}.rule: {{ priority: 6 }}"));
                self.expect("repeated-tag", service);
            }
            (Fault::DuplicateKey, 9) => {
                fields.push(format!("offers: [{}]\n    key: k10", keyed(file)));
                self.expect("duplicate-key", format!("{}#k10", keyed(file)));
            }
            (Fault::DuplicateDefault, 0) => fields.push("default: true".to_owned()),
            (Fault::DuplicateDefault, 15) => {
                fields.push(format!("offers: [{}]\n    default: true", port(file)));
                self.expect("duplicate-default", port(file));
            }
            (Fault::ShortLivedNeed, 12) => fields.push("lifetime: request".to_owned()),
            (Fault::ShortLivedNeed, 13) => {
                fields.push("lifetime: process".to_owned());
                self.expect("short-lived-need", format!("{service} > {}", id(file, 12)));
            }
            (Fault::HiddenNeed, 13) => {
                needs.push(format!("extra: {{ service: {}, via: look-up }}", id(file, 2)));
                self.expect("hidden-need", service);
            }
            (Fault::MissingServiceByAlias, 13) => {
                needs.push(format!("extra: {{ service: {prefix}.other-name }}"));
                self.expect("missing-service", format!("{prefix}.gone"));
            }
            (Fault::UnknownField, 17) => {
                fields.push("lifetim: process".to_owned());
                self.expect("unknown-field", format!("services.{service}.lifetim"));
            }
            (Fault::WrongShape, 17) => {
                fields.push("internal: sometimes".to_owned());
                self.expect("wrong-shape", format!("services.{service}.internal"));
            }
            _ => {}
        }
    }

    fn extra_services(&mut self, files: usize) {
        let prefix = prefix(self.file);
        match self.fault {
            Some(Fault::UnusedService) => {
                self.line(&format!("  {prefix}.spare: {{ type: velmora.{prefix}.spare }}"));
                self.expect("unused-service", format!("{prefix}.spare"));
            }
            Some(Fault::UnusedAlias) => {
                self.line(&format!("  {prefix}.other-name: {{ alias-of: {} }}", id(self.file, 3)));
                self.expect("unused-alias", format!("{prefix}.other-name"));
            }
            Some(Fault::MissingServiceByAlias) => {
                self.line(&format!("  {prefix}.other-name: {{ alias-of: {prefix}.gone }}"));
            }
            Some(Fault::LookalikeId) => {
                let (one, other) = (id(self.file, 5), id(self.file, 5).replacen('.', "-", 2));
                self.line(&format!(
                    "  {other}: {{ type: velmora.other, offers: [Like{}] }}",
                    port(self.file)
                ));
                self.expect("lookalike-id", format!("{other} ~ {one}"));
            }
            Some(Fault::DuplicateService) => {
                let twice = id((self.file + 1) % files, 2);
                let own = files == 1;
                self.line(&format!("  {twice}: {{ type: velmora.{prefix}.again }}"));
                // In one file the second definition is a second key.
                let rule = if own { "repeated-field" } else { "duplicate-service" };
                let subject = if own { format!("services.{twice}") } else { twice };
                self.expect(rule, subject);
            }
            _ => {}
        }
    }

    /// A file before this one: mostly a near one, else one of the first that many build on.
    fn earlier(&mut self, random: &mut Random) -> usize {
        let near = self.file - 1 - random.below(self.file.min(50));
        let other = if random.below(2) == 0 { near } else { random.below(self.file.div_ceil(10)) };
        self.uses.insert(other / FILES);
        other
    }
}

fn module_name(module: usize) -> String {
    format!("m{module:05}")
}

fn prefix(file: usize) -> String {
    format!("{}.f{}", module_name(file / FILES), file % FILES)
}

fn id(file: usize, number: usize) -> String {
    format!("{}.{}", prefix(file), WORDS[number])
}

fn port(file: usize) -> String {
    format!("Port{file:06}")
}

fn keyed(file: usize) -> String {
    format!("Keyed{file:06}")
}
