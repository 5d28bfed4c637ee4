//! Made workspaces of any size, clean or with faults whose findings are known.
//!
//! Every file holds twenty services that build on one another, offers contracts, carries and collects tags,
//! has settings and one entry, and needs services and contracts of earlier files. With stages, every file has
//! a service and a value of its own in one of them. The same seed always makes the same text.

mod code;

use std::cell::RefCell;
use std::collections::{BTreeMap, BTreeSet};
use std::fmt::Write;
use std::rc::Rc;

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
    MissingProvider,
    DuplicateProvider,
    UnlistedProvider,
    NeededTooEarly,
    UndeclaredUse,
    InternalReach,
    ModuleCycle,
    UnusedUse,
    UnreadableFile,
    EmptyFile,
    TagOrderTie,
    MissingType,
    MissingMethod,
    ContractNotImplemented,
    ArgumentMismatch,
    AbstractType,
    UnscannedMark,
    MissingInOneStage,
    AmbiguousInOneStage,
    CycleInOneStage,
    MissingOutsideOneStage,
}

const FAULTS: [Fault; 57] = [
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
    Fault::MissingProvider,
    Fault::DuplicateProvider,
    Fault::UnlistedProvider,
    Fault::NeededTooEarly,
    Fault::UndeclaredUse,
    Fault::InternalReach,
    Fault::ModuleCycle,
    Fault::UnusedUse,
    Fault::UnreadableFile,
    Fault::EmptyFile,
    Fault::TagOrderTie,
    Fault::MissingType,
    Fault::MissingMethod,
    Fault::ContractNotImplemented,
    Fault::ArgumentMismatch,
    Fault::AbstractType,
    Fault::UnscannedMark,
    Fault::MissingInOneStage,
    Fault::AmbiguousInOneStage,
    Fault::CycleInOneStage,
    Fault::MissingOutsideOneStage,
];

/// Faults of which two in one file would be one: they are about the same thing, or one settles the other.
const APART: [&[Fault]; 7] = [
    &[
        Fault::AmbiguousImplementation,
        Fault::AmbiguousInOneStage,
        Fault::DuplicateDefault,
        Fault::ChoiceMismatch,
    ],
    &[Fault::TagContract, Fault::UntaggedService],
    &[Fault::UnknownTag, Fault::UntaggedService],
    &[Fault::UnusedTag, Fault::UncollectedTag],
    &[Fault::ServiceCycle, Fault::CycleInOneStage],
    &[Fault::RepeatedField, Fault::DefinitionCycle],
    &[Fault::UndeclaredUse, Fault::InternalReach, Fault::ModuleCycle, Fault::UnusedUse],
];

impl Fault {
    fn needs_stages(self) -> bool {
        FAULTS[53..].contains(&self)
    }

    fn goes_with(self, other: Self) -> bool {
        self != other && !APART.iter().any(|apart| apart.contains(&self) && apart.contains(&other))
    }
}

/// What must be found.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub struct Expected {
    /// The rule.
    pub rule: &'static str,
    /// The subject.
    pub subject: String,
    /// The stages in which it holds, `-` standing for none chosen; `None`: in all.
    pub holds: Option<Vec<String>>,
}

/// A made file, and what must be found because of it.
#[derive(Debug)]
pub struct File {
    /// Its path below the root.
    pub path: String,
    /// Its text.
    pub text: String,
    /// What its faults make.
    pub expected: Vec<Expected>,
}

/// A workspace to be made.
#[derive(Debug, Clone, Copy, Default)]
pub struct Made {
    /// About how many services.
    pub services: usize,
    /// How many faults one file may have, where it has any; 0: the workspace is clean.
    pub faults: usize,
    /// How many stages there are.
    pub stages: usize,
    /// The same seed makes the same text.
    pub seed: u64,
}

impl Made {
    /// The files, made one by one.
    pub fn files(self) -> impl Iterator<Item = File> {
        let files = self.services.div_ceil(SERVICES).max(1);
        let mut random = Random::new(self.seed);
        let roster = Rc::new(RefCell::new(Vec::new()));
        let listed = roster.clone();
        let manifests = (0..files).flat_map(move |file| {
            let faults = self.faults_of(file, &mut random);
            let mut writer = Writer::new(file, self.stages, faults);
            if file == 0 && self.faults > 0 {
                // Whatever is on the roster beside, it is not empty.
                writer.provider("first", "registers: []");
            }
            let files = writer.files(files, &mut random);
            listed.borrow_mut().extend(files.1);
            files.0
        });
        let has_workspace_file = self.stages > 0 || self.faults > 0;
        let workspace =
            (0..usize::from(has_workspace_file)).map(move |_| self.workspace_file(&roster.borrow()));
        manifests.chain(workspace)
    }

    fn faults_of(self, file: usize, random: &mut Random) -> Vec<Fault> {
        let mut faults: Vec<Fault> = Vec::new();
        if self.faults == 0 || random.below(FAULT_EVERY) != 0 {
            return faults;
        }
        for _ in 0..=random.below(self.faults) {
            let fault = FAULTS[random.below(FAULTS.len())];
            let has_room = match fault {
                // Two in one module would be one cycle group.
                Fault::ModuleCycle => file.is_multiple_of(FILES),
                _ => self.stages > 1 || !fault.needs_stages(),
            };
            if has_room && faults.iter().all(|&other| fault.goes_with(other)) {
                faults.push(fault);
            }
        }
        faults
    }

    fn workspace_file(self, roster: &[String]) -> File {
        let roster = if roster.is_empty() { String::new() } else { format!("roster = {roster:?}\n") };
        let stages = (0..self.stages).map(|stage| format!("[stages.{}]\n", stage_name(stage)));
        let code = if self.faults > 0 { code::SETTINGS } else { "" };
        let text = roster + code + &stages.collect::<String>();
        File { path: "corvant.toml".to_owned(), text, expected: Vec::new() }
    }
}

/// The files of a workspace of about `services` services without stages, clean or with single faults.
pub fn corpus(services: usize, faulty: bool, seed: u64) -> impl Iterator<Item = File> {
    Made { services, faults: usize::from(faulty), stages: 0, seed }.files()
}

/// One service while it is written.
#[derive(Default)]
struct Draft {
    fields: Vec<String>,
    offers: Vec<String>,
    tags: Vec<String>,
    needs: Vec<String>,
}

impl Draft {
    fn need(&mut self, target: &str) {
        self.needs.push(format!("extra{}: {{ {target} }}", self.needs.len()));
    }
}

struct Writer {
    file: usize,
    stages: usize,
    faults: Vec<Fault>,
    expected: Vec<Expected>,
    /// By section what stands in it.
    sections: BTreeMap<&'static str, String>,
    entry_needs: String,
    uses: BTreeSet<usize>,
    /// Other modules that the file says it uses.
    other_uses: Vec<String>,
    /// What the roster lists for this file.
    listed: Vec<String>,
    /// Files beside this one.
    beside: Vec<File>,
}

impl Writer {
    fn new(file: usize, stages: usize, faults: Vec<Fault>) -> Self {
        Self {
            file,
            stages,
            faults,
            expected: Vec::new(),
            sections: BTreeMap::new(),
            entry_needs: String::new(),
            uses: BTreeSet::new(),
            other_uses: Vec::new(),
            listed: Vec::new(),
            beside: Vec::new(),
        }
    }

    fn has(&self, fault: Fault) -> bool {
        self.faults.contains(&fault)
    }

    fn line(&mut self, section: &'static str, line: &str) {
        let body = self.sections.entry(section).or_default();
        body.push_str(line);
        body.push('\n');
    }

    fn expect(&mut self, rule: &'static str, subject: impl Into<String>) {
        self.expected.push(Expected { rule, subject: subject.into(), holds: None });
    }

    fn expect_in(&mut self, holds: Vec<String>, rule: &'static str, subject: impl Into<String>) {
        self.expected.push(Expected { rule, subject: subject.into(), holds: Some(holds) });
    }

    /// The stage that the file has something of its own in.
    fn stage(&self) -> String {
        stage_name(self.file % self.stages.max(1))
    }

    /// The file with those beside it, and what the roster lists for them.
    fn files(mut self, files: usize, random: &mut Random) -> (Vec<File>, Vec<String>) {
        self.values(files);
        self.tags();
        self.choices();
        for number in 0..SERVICES {
            self.service(number, random);
        }
        self.extra_services(files);
        self.code();
        if self.stages > 0 {
            self.staged();
        }
        self.entry();
        self.others();
        self.providers();
        self.neighbours();
        let module = self.file / FILES;
        self.uses.remove(&module);
        let mut uses: Vec<String> = self.uses.iter().map(|module| module_name(*module)).collect();
        uses.append(&mut self.other_uses);
        let (prefix, name) = (prefix(self.file), module_name(module));
        if self.has(Fault::MissingModule) {
            uses.push(format!("{prefix}.nowhere"));
            self.expect("missing-module", format!("{name} > {prefix}.nowhere"));
        }
        let mut text = format!("corvant: 1\nmodule: {name}\nuses: [{}]\n", uses.join(", "));
        for (section, body) in &self.sections {
            write!(text, "{section}:\n{body}").expect("writing to a String");
        }
        let path = format!("modules/{name}/f{}.wiring.yaml", self.file % FILES);
        self.beside.push(File { path, text, expected: self.expected });
        (self.beside, self.listed)
    }

    /// Defines a provider that the roster lists.
    fn provider(&mut self, name: &str, fields: &str) -> String {
        let id = format!("{}.{name}", prefix(self.file));
        self.line("providers", &format!("  {id}: {{ {fields} }}"));
        self.listed.push(id.clone());
        id
    }

    fn providers(&mut self) {
        let (prefix, first) = (prefix(self.file), id(self.file, 0));
        if self.has(Fault::EmptyPromise) {
            let id = self.provider("start", &format!("registers: [{prefix}.promised]"));
            self.expect("empty-promise", format!("{id} > {prefix}.promised"));
        }
        if self.has(Fault::MissingProvider) {
            self.listed.push(format!("{prefix}.nobody"));
            self.expect("missing-provider", format!("{prefix}.nobody"));
        }
        if self.has(Fault::DuplicateProvider) {
            let id = self.provider("twice", "registers: []");
            self.listed.push(id.clone());
            self.expect("duplicate-provider", id);
        }
        if self.has(Fault::UnlistedProvider) {
            let id = self.provider("unlisted", "registers: []");
            self.listed.pop();
            self.expect("unlisted-provider", id);
        }
        if self.has(Fault::NeededTooEarly) {
            let needs = format!("registers: [], register: {{ needs: {{ x: {{ service: {first} }} }} }}");
            let early = self.provider("early", &needs);
            self.provider("late", &format!("registers: [{first}]"));
            self.expect("needed-too-early", format!("{early} > {first}"));
        }
    }

    /// Faults that take another file.
    fn neighbours(&mut self) {
        let (prefix, name) = (prefix(self.file), module_name(self.file / FILES));
        let island = format!("{prefix}.island");
        let mut beside = |path: &str, text: String, rule: Option<&'static str>| {
            let path = format!("modules/{name}/{path}.wiring.yaml");
            let expected = rule.map(|rule| Expected { rule, subject: path.clone(), holds: None });
            self.beside.push(File { path, text, expected: expected.into_iter().collect() });
        };
        let file = self.file % FILES;
        if self.faults.contains(&Fault::UnreadableFile) {
            beside(&format!("broken{file}"), "services: ]\n".to_owned(), Some("unreadable-file"));
        }
        if self.faults.contains(&Fault::EmptyFile) {
            beside(&format!("empty{file}"), format!("corvant: 1\nmodule: {name}\n"), Some("empty-file"));
        }
        let mut service = |uses: &str, fields: &str| {
            let text = format!(
                "corvant: 1\nmodule: {island}\n{uses}services: {{ {island}.tower: {{ {fields} }} }}\n\
                 entries: {{ {island}.entry: {{ needs: {{ x: {{ service: {island}.tower }} }} }} }}\n"
            );
            beside(&format!("island{file}"), text, None);
        };
        let cycle = format!("uses: [{name}]\n");
        let needs = format!("needs: {{ x: {{ service: {} }} }}", id(self.file, 0));
        let fault = self.faults.iter().copied().find(|fault| {
            [Fault::UndeclaredUse, Fault::InternalReach, Fault::ModuleCycle, Fault::UnusedUse].contains(fault)
        });
        match fault {
            Some(Fault::InternalReach) => service("", "internal: true"),
            Some(Fault::ModuleCycle) => service(&cycle, &needs),
            Some(_) => service("", ""),
            None => return,
        }
        if fault != Some(Fault::UndeclaredUse) {
            self.other_uses.push(island.clone());
        }
        match fault {
            Some(Fault::UndeclaredUse) => self.expect("undeclared-use", format!("{name} > {island}")),
            Some(Fault::UnusedUse) => self.expect("unused-use", format!("{name} > {island}")),
            Some(Fault::ModuleCycle) => self.expect("module-cycle", format!("{name} > {island}")),
            _ => self.expect("internal-reach", format!("{island}.tower")),
        }
    }

    /// Settings and contracts.
    fn values(&mut self, files: usize) {
        let (prefix, port, stage) = (prefix(self.file), port(self.file), self.stage());
        let number = files % 97;
        let limit = if self.has(Fault::DefinitionCycle) {
            self.expect("definition-cycle", format!("{prefix}.address > {prefix}.limit"));
            format!("\"file:${{{prefix}.address}}\"")
        } else if self.stages > 0 {
            format!("{{ value: {number}, stages: {{ {stage}: {} }} }}", number + 1)
        } else {
            number.to_string()
        };
        self.line(
            "settings",
            &format!("  {prefix}.limit: {limit}\n  {prefix}.address: \"file:${{{prefix}.limit}}\""),
        );
        if self.has(Fault::RepeatedField) {
            self.line("settings", &format!("  {prefix}.limit: 31"));
            self.expect("repeated-field", format!("settings.{prefix}.limit"));
        }
        if self.has(Fault::UnusedSetting) {
            self.line("settings", &format!("  {prefix}.spare: 31"));
            self.expect("unused-setting", format!("{prefix}.spare"));
        }
        if self.has(Fault::MissingOutsideOneStage) {
            self.line("settings", &format!("  {prefix}.night: {{ stages: {{ {stage}: 1 }} }}"));
            let others = (0..self.stages).map(stage_name).filter(|other| *other != stage);
            self.expect_in(others.collect(), "missing-setting", format!("{prefix}.night"));
        }
        if self.has(Fault::UnusedContract) {
            self.line("contracts", &format!("  Spare{port}: {{}}"));
            self.expect("unused-contract", format!("Spare{port}"));
        }
    }

    fn tags(&mut self) {
        let (prefix, asked, by) = (prefix(self.file), port(self.file), id(self.file, 18));
        self.line("tags", &format!("  {prefix}.rule:"));
        self.line("tags", "    attributes: { priority: { kind: integer, required: true, unique: true } }");
        if self.has(Fault::MissingCarrier) {
            self.line("tags", "    at-least: 9");
            self.expect("missing-carrier", format!("{prefix}.rule"));
        }
        for (fault, rule) in [(Fault::UnusedTag, "unused-tag"), (Fault::UncollectedTag, "uncollected-tag")] {
            if self.has(fault) {
                self.line("tags", &format!("  {prefix}.idle: {{}}"));
                self.expect(rule, format!("{prefix}.idle"));
            }
        }
        if self.has(Fault::TagOrderTie) {
            let attributes = "attributes: { at: { kind: integer, required: true } }";
            self.line("tags", &format!("  {prefix}.order: {{ collected-by: {by}, {attributes} }}"));
            self.expect("tag-order-tie", id(self.file, 15));
        }
        if self.has(Fault::TagContract) {
            self.line("tags", &format!("  {prefix}.asks: {{ contract: Asked{asked}, collected-by: {by} }}"));
            self.expect("tag-contract", id(self.file, 14));
        }
        if self.has(Fault::UntaggedService) {
            self.line(
                "tags",
                &format!(
                    "  {prefix}.asks: {{ contract: Asked{asked}, carried-by-all: true, collected-by: {by} }}"
                ),
            );
            self.expect("untagged-service", id(self.file, 14));
        }
    }

    fn choices(&mut self) {
        let (one, ten, port, keyed) =
            (id(self.file, 1), id(self.file, 10), port(self.file), keyed(self.file));
        if self.has(Fault::ChoiceMismatch) {
            self.line("choices", &format!("  {port}: {{ default: {one} }}"));
            self.expect("choice-mismatch", port);
        }
        if self.has(Fault::UnusedChoice) {
            self.line("choices", &format!("  {keyed}: {{ keys: {{ k99: {ten} }} }}"));
            self.expect("unused-choice", format!("{keyed}#k99"));
        }
    }

    fn entry(&mut self) {
        let (prefix, last) = (prefix(self.file), id(self.file, SERVICES - 1));
        if self.has(Fault::LookalikeId) {
            // Whatever looks alike is used all the same.
            write!(self.entry_needs, ", like: {{ contract: Like{} }}", port(self.file))
                .expect("writing to a String");
        }
        if self.has(Fault::LookupOfMissing) {
            self.expect("lookup-of-missing", format!("{prefix}.gone"));
            write!(self.entry_needs, ", gone: {{ service: {prefix}.gone, via: look-up }}")
                .expect("writing to a String");
        }
        let needs = format!("main: {{ service: {last} }}{}", self.entry_needs);
        self.line("entries", &format!("  {prefix}.entry:\n    at: GET /{prefix}\n    needs: {{ {needs} }}"));
    }

    /// Sections that hold nothing but faults.
    fn others(&mut self) {
        let first = id(self.file, 0);
        if self.has(Fault::UnmetExpectation) {
            self.line("expect", &format!("  - {{ service: {first}, type: velmora.other }}"));
            self.expect("unmet-expectation", first.clone());
        }
        if self.has(Fault::StaleAllowance) {
            self.line("allow", &format!("  - {{ rule: unused-service, subject: {first} }}"));
            self.expect("stale-allowance", format!("unused-service {first}"));
        }
    }

    fn service(&mut self, number: usize, random: &mut Random) {
        let (file, prefix) = (self.file, prefix(self.file));
        let mut draft = Draft::default();
        draft.fields.push(format!("type: velmora.{prefix}.{}", WORDS[number]));
        if number > 0 {
            draft.needs.push(format!("before: {{ service: {} }}", id(file, number - 1)));
        }
        match number {
            0 => {
                draft.offers.push(port(file));
                draft.fields.push("lifetime: process".to_owned());
            }
            4..=6 => {
                let same = number == 5 && self.has(Fault::TagAttribute);
                let priority = if same { 4 } else { number };
                draft.tags.push(format!("{prefix}.rule: {{ priority: {priority} }}"));
            }
            8 => draft.needs.push(format!("rules: {{ tag: {prefix}.rule }}")),
            10 | 11 => {
                draft.offers.push(keyed(file));
                draft.fields.push(format!("key: k{number}"));
            }
            12 => draft.needs.push(format!("keyed: {{ contract: {}, key: k10 }}", keyed(file))),
            16 => draft.needs.push(format!("port: {{ contract: {} }}", port(file))),
            _ => {}
        }
        if number % 4 == 1 {
            draft.needs.push(format!("limit: {{ setting: {prefix}.address }}"));
        }
        if number % 5 == 2 && file > 0 {
            let other = self.earlier(random);
            draft.needs.push(format!("other: {{ service: {} }}", id(other, random.below(SERVICES))));
        }
        if number % 7 == 3 && file > 0 {
            let other = self.earlier(random);
            draft.needs.push(format!("source: {{ contract: {}, lazy: true }}", port(other)));
        }
        for fault in self.faults.clone() {
            self.spoil(fault, number, &mut draft);
        }
        self.write_service(&id(file, number), &draft);
    }

    fn write_service(&mut self, id: &str, draft: &Draft) {
        let mut text = format!("  {id}:\n    {}\n", draft.fields.join("\n    "));
        let mut more = |field: &str, values: &[String]| {
            if !values.is_empty() {
                write!(text, "    {field}:\n      {}\n", values.join("\n      "))
                    .expect("writing to a String");
            }
        };
        let items = |values: &[String]| values.iter().map(|value| format!("- {value}")).collect::<Vec<_>>();
        more("offers", &items(&draft.offers));
        more("tags", &items(&draft.tags));
        more("needs", &draft.needs);
        self.line("services", text.trim_end());
    }

    /// Puts a fault into the service it is meant for.
    fn spoil(&mut self, fault: Fault, number: usize, draft: &mut Draft) {
        let (file, prefix) = (self.file, prefix(self.file));
        let service = id(file, number);
        match (fault, number) {
            (Fault::MissingService, 13) => {
                let missing = format!("{prefix}.{}", &WORDS[7][1..]);
                draft.need(&format!("service: {missing}"));
                self.expect("missing-service", missing);
            }
            (Fault::MissingImplementation, 13) => {
                draft.need(&format!("contract: {}x", port(file)));
                self.expect("missing-implementation", format!("{}x", port(file)));
            }
            (Fault::MissingKey, 13) => {
                draft.need(&format!("contract: {}, key: k12", keyed(file)));
                self.expect("missing-key", format!("{}#k12", keyed(file)));
            }
            (Fault::MissingSetting, 13) => {
                draft.need(&format!("setting: {prefix}.limi"));
                self.expect("missing-setting", format!("{prefix}.limi"));
            }
            (Fault::ServiceCycle, 3) => {
                draft.need(&format!("service: {}", id(file, 5)));
                let cycle = [id(file, 3), id(file, 5), id(file, 4)];
                self.expect("service-cycle", cycle.join(" > "));
            }
            (Fault::UnknownTag, 14) => {
                draft.tags.push(format!("{prefix}.rul"));
                self.expect("unknown-tag", format!("{prefix}.rul"));
            }
            (Fault::TagAttribute, 5) => self.expect("tag-attribute", service),
            (Fault::AmbiguousImplementation, 15) => {
                draft.offers.push(port(file));
                self.expect("ambiguous-implementation", port(file));
            }
            (Fault::UncollectedTag, 14) => draft.tags.push(format!("{prefix}.idle")),
            (Fault::TagContract, 14) => draft.tags.push(format!("{prefix}.asks")),
            (Fault::UntaggedService, 14) => draft.offers.push(format!("Asked{}", port(file))),
            (Fault::UntaggedService, 15) => {
                draft.offers.push(format!("Asked{}", port(file)));
                draft.tags.push(format!("{prefix}.asks"));
            }
            (Fault::RepeatedTag, 6) => {
                draft.tags.push(format!("{prefix}.rule: {{ priority: 6 }}"));
                self.expect("repeated-tag", service);
            }
            (Fault::DuplicateKey, 9) => {
                draft.offers.push(keyed(file));
                draft.fields.push("key: k10".to_owned());
                self.expect("duplicate-key", format!("{}#k10", keyed(file)));
            }
            (Fault::DuplicateDefault, 0) => draft.fields.push("default: true".to_owned()),
            (Fault::DuplicateDefault, 15) => {
                draft.offers.push(port(file));
                draft.fields.push("default: true".to_owned());
                self.expect("duplicate-default", port(file));
            }
            (Fault::ShortLivedNeed, 12) => draft.fields.push("lifetime: request".to_owned()),
            (Fault::ShortLivedNeed, 13) => {
                draft.fields.push("lifetime: process".to_owned());
                self.expect("short-lived-need", format!("{service} > {}", id(file, 12)));
            }
            (Fault::HiddenNeed, 13) => {
                draft.need(&format!("service: {}, via: look-up", id(file, 2)));
                self.expect("hidden-need", service);
            }
            (Fault::MissingServiceByAlias, 13) => {
                draft.need(&format!("service: {prefix}.second-name"));
                self.expect("missing-service", format!("{prefix}.lost"));
            }
            (Fault::UnknownField, 17) => {
                draft.fields.push("lifetim: process".to_owned());
                self.expect("unknown-field", format!("services.{service}.lifetim"));
            }
            (Fault::WrongShape, 17) => {
                draft.fields.push("internal: sometimes".to_owned());
                self.expect("wrong-shape", format!("services.{service}.internal"));
            }
            (Fault::TagOrderTie, 9 | 15) => draft.tags.push(format!("{prefix}.order: {{ at: 3 }}")),
            (Fault::UndeclaredUse | Fault::InternalReach | Fault::ModuleCycle, 13) => {
                draft.need(&format!("service: {prefix}.island.tower"));
            }
            (Fault::MissingOutsideOneStage, 13) => draft.need(&format!("setting: {prefix}.night")),
            _ => {}
        }
    }

    /// Services beside the twenty that every file has.
    fn extra_services(&mut self, files: usize) {
        let prefix = prefix(self.file);
        let spare = format!("  {prefix}.spare: {{ type: velmora.{prefix}.spare }}");
        let alias = format!("  {prefix}.other-name: {{ alias-of: {} }}", id(self.file, 3));
        if self.has(Fault::UnusedService) {
            self.line("services", &spare);
            self.expect("unused-service", format!("{prefix}.spare"));
        }
        if self.has(Fault::UnusedAlias) {
            self.line("services", &alias);
            self.expect("unused-alias", format!("{prefix}.other-name"));
        }
        if self.has(Fault::MissingServiceByAlias) {
            self.line("services", &format!("  {prefix}.second-name: {{ alias-of: {prefix}.lost }}"));
        }
        if self.has(Fault::LookalikeId) {
            let (one, other) = (id(self.file, 5), id(self.file, 5).replacen('.', "-", 2));
            let offers = format!("Like{}", port(self.file));
            self.line("services", &format!("  {other}: {{ type: velmora.other, offers: [{offers}] }}"));
            self.expect("lookalike-id", format!("{other} ~ {one}"));
        }
        if self.has(Fault::DuplicateService) {
            let twice = id((self.file + 1) % files, 2);
            let own = files == 1;
            self.line("services", &format!("  {twice}: {{ type: velmora.{prefix}.again }}"));
            // In one file the second definition is a second key.
            let rule = if own { "repeated-field" } else { "duplicate-service" };
            let subject = if own { format!("services.{twice}") } else { twice };
            self.expect(rule, subject);
        }
    }

    /// What the file has in its stage alone.
    fn staged(&mut self) {
        let (prefix, stage) = (prefix(self.file), self.stage());
        let (seventh, before) = (id(self.file, 7), id(self.file, 6));
        let needs = format!("needs: {{ before: {{ service: {before} }} }}");
        self.line(
            "services",
            &format!("  {prefix}.staged: {{ type: velmora.staged, stages: [{stage}], replaces: {seventh}, {needs} }}"),
        );
        let stages = || vec![stage.clone()];
        if self.has(Fault::MissingInOneStage) {
            let needs = format!("needs: {{ x: {{ service: {prefix}.absent }} }}");
            self.line("services", &format!("  {prefix}.nightly: {{ stages: [{stage}], {needs} }}"));
            self.entry_needs =
                format!("{}, nightly: {{ service: {prefix}.nightly, optional: true }}", self.entry_needs);
            self.expect_in(stages(), "missing-service", format!("{prefix}.absent"));
        }
        if self.has(Fault::AmbiguousInOneStage) {
            let port = port(self.file);
            self.line("services", &format!("  {prefix}.rival: {{ stages: [{stage}], offers: [{port}] }}"));
            self.expect_in(stages(), "ambiguous-implementation", port);
        }
        if self.has(Fault::CycleInOneStage) {
            let (clock, gate) = (id(self.file, 2), id(self.file, 6));
            let needs = format!("needs: {{ x: {{ service: {gate} }} }}");
            self.line(
                "services",
                &format!("  {prefix}.detour: {{ stages: [{stage}], replaces: {clock}, {needs} }}"),
            );
            let cycle = [3, 2, 6, 5, 4]
                .map(|number| if number == 2 { format!("{prefix}.detour") } else { id(self.file, number) });
            self.expect_in(stages(), "service-cycle", cycle.join(" > "));
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

fn stage_name(stage: usize) -> String {
    format!("s{stage:02}")
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
