//! Faults between definitions and the code that declares their types.

use super::{Draft, FILES, Fault, File, Writer, module_name, port, prefix};
use std::fmt::Write;

/// What the workspace file says where there may be faults in code: what is read, and what is scanned for marks.
pub(super) const SETTINGS: &str = "\
[[types]]
files = ['modules/**/*.java']

[[reader]]
name = 'carried'
files = ['modules/*/scanned/*.java']
syntax = 'types'
module = { path = 'modules/(?<module>[^/]+)/' }

[[reader.take]]
what = 'service'
each = '$.types[*]'
marked = 'velmora.kit.Carried'
id = '$.name'
type = '$.name'
";

/// The faults that take code.
const FAULTS: [Fault; 6] = [
    Fault::MissingType,
    Fault::MissingMethod,
    Fault::ContractNotImplemented,
    Fault::ArgumentMismatch,
    Fault::AbstractType,
    Fault::UnscannedMark,
];

impl Writer {
    /// Faults that take a file of code beside this one, and services of the types in it.
    pub(super) fn code(&mut self) {
        if !FAULTS.iter().any(|fault| self.has(*fault)) {
            return;
        }
        let scope = format!("velmora.{}.code", prefix(self.file));
        let mut types = "public interface Lit {}\nabstract class Half implements Lit {}\nclass Yard {}\n\
             class Gate implements Lit {\n    Gate(Yard yard) {}\n    void setLamp(Half lamp) {}\n}\n"
            .to_owned();
        let yard = self.typed("yard", &format!("{scope}.Yard"), &[], &[]);
        let lamp = self.typed("red-lamp", "velmora.elsewhere.Lamp", &[], &[]);
        let gate = format!("{scope}.Gate");
        let needs = [format!("yard: {{ service: {yard} }}")];
        let mut sound = needs.to_vec();
        sound.push(format!("lamp: {{ service: {lamp}, via: setter, method: setLamp }}"));
        self.typed("sound-gate", &gate, &[format!("{scope}.Lit")], &sound);
        if self.has(Fault::MissingType) {
            self.typed("lost-gate", &format!("{scope}.Gaet"), &[], &[]);
            self.expect("missing-type", format!("{scope}.Gaet"));
        }
        if self.has(Fault::MissingMethod) {
            let setter = format!("lamp: {{ service: {lamp}, via: setter, method: setLmap }}");
            self.typed("unset-gate", &gate, &[], &[needs[0].clone(), setter]);
            self.expect("missing-method", format!("{gate}.setLmap"));
        }
        if self.has(Fault::ContractNotImplemented) {
            let dark = self.typed("dark-yard", &format!("{scope}.Yard"), &[format!("{scope}.Lit")], &[]);
            self.expect("contract-not-implemented", dark);
        }
        if self.has(Fault::ArgumentMismatch) {
            let bare = self.typed("bare-gate", &gate, &[], &[format!("yrad: {{ service: {yard} }}")]);
            self.expect("argument-mismatch", bare);
        }
        if self.has(Fault::AbstractType) {
            let half = self.typed("half-gate", &format!("{scope}.Half"), &[], &[]);
            self.expect("abstract-type", half);
        }
        if self.has(Fault::UnscannedMark) {
            types.push_str("@velmora.kit.Carried class Carried {}\n");
            self.expect("unscanned-mark", format!("{scope}.Carried"));
            self.entry_need("seen", &format!("{scope}.seen.Seen"));
            self.code_file("scanned", &format!("{scope}.seen"), "@velmora.kit.Carried class Seen {}\n");
        }
        self.code_file("src", &scope, &types);
    }

    /// A service of a type that the file's entry needs; its id.
    fn typed(&mut self, name: &str, type_name: &str, offers: &[String], needs: &[String]) -> String {
        let id = format!("{}.{name}", prefix(self.file));
        let draft = Draft {
            fields: vec![format!("type: {type_name}")],
            offers: offers.to_vec(),
            needs: needs.to_vec(),
            ..Draft::default()
        };
        self.write_service(&id, &draft);
        self.entry_need(name, &id);
        id
    }

    fn entry_need(&mut self, slot: &str, id: &str) {
        write!(self.entry_needs, ", {slot}: {{ service: {id} }}").expect("writing to a String");
    }

    fn code_file(&mut self, folder: &str, scope: &str, types: &str) {
        let module = module_name(self.file / FILES);
        let path = format!("modules/{module}/{folder}/{}.java", port(self.file));
        self.beside.push(File { path, text: format!("package {scope};\n\n{types}"), expected: Vec::new() });
    }
}
