//! What short names stand for in a file.

use super::Language;
use super::lexer::TEXT;
use super::marks::unquoted;
use super::skim::Skim;
use std::ops::Range;

impl Skim<'_> {
    /// An import, and the number behind it.
    pub(super) fn import(&mut self, at: usize) -> usize {
        match self.tokens.language {
            Language::Java | Language::Kotlin => self.dotted_import(at + 1),
            Language::CSharp => self.using(at),
            Language::Php => self.php_use(at + 1),
            Language::TypeScript => self.module_import(at),
            _ => at + 1,
        }
    }

    /// A name with dots, and the number behind it.
    fn dotted(&self, mut at: usize) -> (String, usize) {
        let mut name = String::new();
        while let Some(part) = self.tokens.word(at) {
            name.push_str(part);
            at += 1;
            if !self.tokens.is_sign(at, b'.') || self.tokens.word(at + 1).is_none() {
                break;
            }
            name.push('.');
            at += 1;
        }
        (name, at)
    }

    /// `import velmora.depot.Gate;`, `import velmora.depot.*`, `import velmora.depot.Gate as Door`
    fn dotted_import(&mut self, at: usize) -> usize {
        let is_static = self.tokens.is_word(at, "static");
        let (name, mut at) = self.dotted(at + usize::from(is_static));
        let imports = &mut self.found.imports;
        if self.tokens.is_sign(at, b'.') && self.tokens.is_sign(at + 1, b'*') {
            imports.see_all_of(name);
            return at + 2;
        }
        let mut short = name.rsplit('.').next().unwrap_or_default();
        if self.tokens.language == Language::Kotlin && self.tokens.is_word(at, "as") {
            short = self.tokens.word(at + 1).unwrap_or(short);
            at += 2;
        }
        imports.named.insert(short.to_owned(), name.clone());
        at
    }

    /// `using Velmora.Depot;`, `using Door = Velmora.Depot.Gate;`
    fn using(&mut self, at: usize) -> usize {
        let is_global = at > 0 && self.tokens.is_word(at - 1, "global");
        let mut start = at + 1;
        while matches!(self.tokens.word(start), Some("static" | "unsafe")) {
            start += 1;
        }
        let (name, behind) = self.dotted(start);
        let imports = &mut self.found.imports;
        if self.tokens.is_sign(behind, b'=') {
            let end = self.tokens.find(behind + 1..self.tokens.len(), b";").unwrap_or(self.tokens.len());
            if let Some(stands_for) = self.tokens.whole_type(behind + 1..end) {
                imports.named.insert(name, stands_for.name);
            }
            return end;
        }
        if is_global {
            imports.everywhere.push(name);
        } else if !name.is_empty() {
            imports.see_all_of(name);
        }
        behind
    }

    /// `use Velmora\Depot\Gate;`, `use Velmora\Depot\{Gate, Lock as Bolt};`
    fn php_use(&mut self, at: usize) -> usize {
        if matches!(self.tokens.word(at), Some("function" | "const")) {
            return at + 1;
        }
        let end = self.tokens.find(at..self.tokens.len(), b";").unwrap_or(self.tokens.len());
        for element in self.tokens.elements(at..end) {
            let Some(name) = self.tokens.word(element.start) else { continue };
            let prefix = name.trim_start_matches('\\');
            if self.tokens.is_sign(element.start + 1, b'{') {
                let Some(close) = self.tokens.partner(element.start + 1) else { continue };
                for inner in self.tokens.elements(element.start + 2..close) {
                    let Some(name) = self.tokens.word(inner.start) else { continue };
                    let full = format!("{}\\{name}", prefix.trim_end_matches('\\'));
                    self.php_name(inner, &full);
                }
            } else {
                self.php_name(element, prefix);
            }
        }
        end
    }

    fn php_name(&mut self, element: Range<usize>, full: &str) {
        let own = self.tokens.is_word(element.start + 1, "as").then(|| self.tokens.word(element.start + 2));
        let short = own.flatten().or_else(|| full.rsplit('\\').next()).unwrap_or_default();
        self.found.imports.named.insert(short.to_lowercase(), full.to_owned());
    }

    /// `import { Gate as Door } from "./gate"`, `import * as depot from "./depot"`, `export { Gate } from "./gate"`
    fn module_import(&mut self, at: usize) -> usize {
        let is_export = self.tokens.is_word(at, "export");
        let mut start = at + 1;
        if self.tokens.is_word(start, "type") && !self.tokens.is_sign(start + 1, b'=') {
            start += 1;
        }
        let is_list = self.tokens.is_sign(start, b'{') || self.tokens.is_sign(start, b'*');
        if is_export && !is_list {
            return at + 1;
        }
        let until = self.tokens.len().min(start + 2_000);
        let from = (start..until).find(|&at| {
            self.tokens.is_word(at, "from") && self.tokens.is_sign(at + 1, TEXT)
                || self.tokens.is_sign(at, b';')
        });
        let Some(from) = from.filter(|&from| self.tokens.is_word(from, "from")) else {
            return if is_export { self.own_exports(start) } else { at + 1 };
        };
        let file = unquoted(&self.tokens.text[self.tokens.range(from + 1)], Language::TypeScript);
        let mut names: Vec<(String, String)> = Vec::new();
        for element in self.tokens.elements(start..from) {
            if self.tokens.is_sign(element.start, b'{') {
                let Some(close) = self.tokens.partner(element.start) else { continue };
                names.extend(
                    self.tokens
                        .elements(element.start + 1..close)
                        .into_iter()
                        .filter_map(|inner| self.renamed(inner)),
                );
            } else if self.tokens.is_sign(element.start, b'*') {
                let own =
                    self.tokens.word(element.start + 2).filter(|_| element.len() > 2).unwrap_or_default();
                names.push((own.to_owned(), String::new()));
            } else if let Some(own) = self.tokens.word(element.start) {
                names.push((own.to_owned(), "default".to_owned()));
            }
        }
        let full = |name: String| format!("{file}#{name}");
        let names = names.into_iter().map(|(own, name)| (own, full(name)));
        if is_export {
            self.found.imports.handed_on.extend(names);
        } else {
            self.found.imports.named.extend(names);
        }
        from + 2
    }

    /// `export { Gate as Door };` of what the file itself declares.
    fn own_exports(&mut self, start: usize) -> usize {
        let Some(close) = self.tokens.partner(start) else { return start };
        let names = self.tokens.elements(start + 1..close);
        let names = names.into_iter().filter_map(|inner| self.renamed(inner));
        let names = names.filter(|(own, name)| own != name).map(|(own, name)| (own, format!("#{name}")));
        self.found.imports.handed_on.extend(names.collect::<Vec<_>>());
        close + 1
    }

    /// `Gate`, `Gate as Door`, `type Gate`: the own name and the one there.
    fn renamed(&self, inner: Range<usize>) -> Option<(String, String)> {
        let start = inner.start + usize::from(self.tokens.is_word(inner.start, "type") && inner.len() > 1);
        let name = self.tokens.word(start)?;
        let own =
            self.tokens.word(start + 2).filter(|_| self.tokens.is_word(start + 1, "as")).unwrap_or(name);
        Some((own.to_owned(), name.to_owned()))
    }
}
