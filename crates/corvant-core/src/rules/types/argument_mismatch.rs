//! `argument-mismatch`: what a service says it needs does not fit the constructor of its type.

use crate::facts::{Callable, Need, Parameter, Target, Via};
use crate::finding::{Certainty, Family, Finding, Fix, Origin, RuleText, Scope, Severity};
use crate::graph::Graph;
use crate::near::meanings;
use crate::resolve::Met;
use crate::rules::Rule;
use crate::source::{SourceIndex, Span};
use crate::views::{Check, Sink, Typed, WorkspaceView, counted, typed_services};
use crate::wiring::NeedIndex;
use foldhash::HashSet;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "argument-mismatch",
        family: Family::Types,
        severity: Severity::Error,
        summary: "what a service says it needs does not fit the constructor of its type",
        why: "The compiler never holds a definition against the constructor that it fills: what does not fit fails when the \
              service is first built, or is silently left out.",
        limits: "Slots are held against parameters by name, or by number where all of them are numbers. Where none of a \
                 service's slots is the name of a parameter, or nearly, slots are words of the house. A parameter counts as \
                 left out if its type is declared in the code that was read, and the reader left nothing over in the file. \
                 Whether a service fits is known where all its super types are.",
        fixes: Certainty::Certain,
        faulty: r#"
//- corvant.toml
[[types]]
files = ["src/**"]
//- depot.wiring.yaml
corvant: 1
module: depot
services:
  depot.yard: { type: velmora.depot.Yard }
  depot.gate: { type: velmora.depot.Gate, needs: { yrad: { service: depot.yard } } }
entries:
  open-gate: { needs: { gate: { service: depot.gate } } }
//- src/Gate.java
package velmora.depot;
public class Gate { public Gate(Yard yard) { } }
class Yard { }
"#,
        corrected: r#"
//- corvant.toml
[[types]]
files = ["src/**"]
//- depot.wiring.yaml
corvant: 1
module: depot
services:
  depot.yard: { type: velmora.depot.Yard }
  depot.gate: { type: velmora.depot.Gate, needs: { yard: { service: depot.yard } } }
entries:
  open-gate: { needs: { gate: { service: depot.gate } } }
//- src/Gate.java
package velmora.depot;
public class Gate { public Gate(Yard yard) { } }
class Yard { }
"#,
        scope: Scope::Workspace,
    },
    check: Check::Workspace(check),
};

/// What a service gives its constructor.
struct Given<'a> {
    number: NeedIndex,
    need: &'a Need,
    slot: &'a str,
}

/// One thing that does not fit.
struct Fault {
    message: String,
    at: (SourceIndex, Span, String),
    fix: Option<Fix>,
}

fn check(view: &WorkspaceView<'_>, sink: &mut Sink) {
    for typed in typed_services(view) {
        if typed.is_made(view) || typed.service.needs_unknown || typed.declared.is_abstract {
            continue;
        }
        let given: Vec<Given<'_>> = typed
            .service
            .needs
            .range()
            .map(|number| (NeedIndex(number as u32), &view.parts().needs[number]))
            .filter(|(_, need)| {
                need.via == Via::Constructor && !need.by_type && need.target != Target::Wrapped
            })
            .map(|(number, need)| Given { number, need, slot: view.text(need.slot.name) })
            .collect();
        let wiring = view.wiring();
        let constructors = wiring.types().constructors(typed.number);
        let Some(constructors) = constructors else { continue };
        let all = constructors.all.of(view.parts());
        let code = wiring.facts.declared_types[constructors.of].source;
        let faults = Fitting { view, typed: &typed, all, given: &given, code }.faults();
        if !faults.is_empty() {
            sink.report(finding(view, &typed, all, code, faults));
        }
    }
}

/// Needs of a service beside the constructors that they may be for.
struct Fitting<'v, 'a> {
    view: &'v WorkspaceView<'a>,
    typed: &'v Typed<'a>,
    all: &'a [Callable],
    given: &'v [Given<'a>],
    code: SourceIndex,
}

impl<'a> Fitting<'_, 'a> {
    fn parameters(&self, of: &Callable) -> &'a [Parameter] {
        of.parameters.of(self.view.parts())
    }

    fn faults(&self) -> Vec<Fault> {
        // That nothing is given is said in Corvant's own format alone; in others it may be said elsewhere.
        if self.given.is_empty() && !self.view.is_own(self.typed.service.source) {
            return Vec::new();
        }
        let numbers: Vec<usize> = self.given.iter().filter_map(|given| given.slot.parse().ok()).collect();
        match numbers.len() {
            0 => self.by_name(),
            all if all == self.given.len() => self.by_number(&numbers),
            // Some are numbers and others are names: what the names are of is not known.
            _ => Vec::new(),
        }
    }

    /// Slots that are numbers: from nought, or from one where none is nought.
    fn by_number(&self, numbers: &[usize]) -> Vec<Fault> {
        let first = usize::from(!numbers.contains(&0));
        let most = numbers.iter().max().map_or(0, |most| most + 1 - first);
        let takes = |one: &&Callable| {
            let parameters = self.parameters(one);
            parameters.len() >= most || parameters.last().is_some_and(|last| last.is_variadic)
        };
        let fitting: Vec<&Callable> = self.all.iter().filter(takes).collect();
        if fitting.is_empty() {
            let longest = self.all.iter().map(|one| one.parameters.len()).max().unwrap_or(0);
            let takes =
                counted(longest, "argument", "arguments").unwrap_or_else(|| "no arguments".to_owned());
            let past = self.given.iter().zip(numbers).filter(|(_, number)| **number - first >= longest);
            let fault = |(given, _): (&Given<'_>, &usize)| Fault {
                message: format!("its constructor takes {takes}, and it gives {most}"),
                at: (given.need.source, given.need.slot.span, "one too many".to_owned()),
                fix: None,
            };
            return past.map(fault).collect();
        }
        let [only] = fitting.as_slice() else { return Vec::new() };
        let parameters = self.parameters(only);
        // Whether numbers begin with nought or one is evident where one is nought, or the last is the last parameter's.
        if first == 1 && most != parameters.len() {
            return Vec::new();
        }
        let pairs = self
            .given
            .iter()
            .zip(numbers)
            .filter_map(|(given, number)| Some((given, parameters.get(number - first)?)));
        pairs.filter_map(|(given, parameter)| self.misfit(given, parameter)).collect()
    }

    fn by_name(&self) -> Vec<Fault> {
        let names = |one: &Callable| -> Vec<&'a str> {
            self.parameters(one).iter().map(|parameter| self.view.text(parameter.name.name)).collect()
        };
        // What a compiler left no names of can be filled by number alone.
        if self.all.iter().any(|one| names(one).contains(&"")) {
            return Vec::new();
        }
        let has_all = |one: &&Callable| {
            let names = names(one);
            self.given.iter().all(|given| names.contains(&given.slot))
        };
        let fitting: Vec<&Callable> = self.all.iter().filter(has_all).collect();
        match fitting.as_slice() {
            [] => self.unknown_slots(&names),
            [only] => {
                let parameters = self.parameters(only);
                let of = |given: &Given<'_>| {
                    let parameter =
                        parameters.iter().find(|one| self.view.text(one.name.name) == given.slot)?;
                    self.misfit(given, parameter)
                };
                let misfits = self.given.iter().filter_map(of);
                misfits.chain(self.left_out(parameters)).collect()
            }
            _ => Vec::new(),
        }
    }

    /// Slots that no constructor has, held against the one that has most of the others.
    fn unknown_slots(&self, names: &impl Fn(&Callable) -> Vec<&'a str>) -> Vec<Fault> {
        let matches = |one: &&Callable| {
            let names = names(one);
            self.given.iter().filter(|given| names.contains(&given.slot)).count()
        };
        let nearest = self.all.iter().rev().max_by_key(matches);
        let parameters = nearest.map(names).unwrap_or_default();
        let is_sure = nearest.is_some_and(|one| matches(&one) > 0) || self.is_without_any();
        let slots: HashSet<&str> = self.given.iter().map(|given| given.slot).collect();
        let open: Vec<&str> = parameters.iter().copied().filter(|name| !slots.contains(name)).collect();
        let unknown: Vec<&Given<'_>> =
            self.given.iter().filter(|given| !parameters.contains(&given.slot)).collect();
        let wanted: Vec<&str> = unknown.iter().map(|given| given.slot).collect();
        let meant = meanings(&wanted, &open);
        let fault = |(given, meant): (&&Given<'_>, Option<crate::near::Meant>)| {
            let fix = meant.map(|meant| {
                let to = open[meant.known];
                let place = (given.need.source, given.need.slot.span);
                Fix::rename(format!("write {to}"), [place], given.slot, to, meant.likeness)
            });
            (is_sure || fix.is_some()).then(|| Fault {
                message: format!("its constructor has no parameter {}", given.slot),
                at: (given.need.source, given.need.slot.span, "no such parameter".to_owned()),
                fix,
            })
        };
        unknown.iter().zip(meant).filter_map(fault).collect()
    }

    /// Whether no constructor takes anything.
    fn is_without_any(&self) -> bool {
        self.all.iter().all(|one| one.parameters.is_empty())
    }

    /// Parameters that nothing fills.
    fn left_out(&self, parameters: &'a [Parameter]) -> Vec<Fault> {
        let wiring = self.view.wiring();
        let header = &wiring.headers[self.typed.service.source.index()];
        if header.left_over > 0 || !self.typed.service.needs_given || self.is_wired() {
            return Vec::new();
        }
        let slots: HashSet<&str> = self.given.iter().map(|given| given.slot).collect();
        let is_left_out = |parameter: &&Parameter| {
            let is_declared = matches!(parameter.asks, Some(Target::Contract(name)) if {
                wiring.types().find(self.view.text(name)).is_some()
            });
            is_declared && !parameter.is_optional && !slots.contains(self.view.text(parameter.name.name))
        };
        let fault = |parameter: &Parameter| {
            let name = self.view.text(parameter.name.name);
            Fault {
                message: format!("nothing fills the parameter {name} of its constructor"),
                at: (self.code, parameter.name.span, "nothing fills this".to_owned()),
                fix: None,
            }
        };
        parameters.iter().filter(is_left_out).map(fault).collect()
    }

    fn is_wired(&self) -> bool {
        self.typed.service.needs.of(self.view.parts()).iter().any(|need| need.by_type)
            || self.view.wiring().policy.wires_constructors
            || self.typed.service.wire.is_some_and(|wire| self.view.text(wire.name) == "constructor")
    }

    /// A service whose type is not that of the parameter it is given for.
    fn misfit(&self, given: &Given<'_>, parameter: &Parameter) -> Option<Fault> {
        let wiring = self.view.wiring();
        let Some(Target::Contract(wanted)) = parameter.asks else { return None };
        let Met::Service(service) = self.view.resolution().met(given.number) else { return None };
        let type_name = wiring.service(service).type_name?;
        let of = wiring.types().find(self.view.text(type_name.name))?;
        let wanted = self.view.text(wanted);
        let fits = wiring.types().is_of(of, wanted);
        (fits == Some(false)).then(|| Fault {
            message: format!(
                "its parameter {} takes {wanted}, and {} is {}",
                self.view.text(parameter.name.name),
                self.view.id(service),
                self.view.text(type_name.name)
            ),
            at: (given.need.source, given.need.span, "does not fit".to_owned()),
            fix: None,
        })
    }
}

fn finding(
    view: &WorkspaceView<'_>,
    typed: &Typed<'_>,
    all: &[Callable],
    code: SourceIndex,
    faults: Vec<Fault>,
) -> Finding {
    let (id, of) = (view.id(typed.index), view.text(typed.declared.name.name));
    let more =
        counted(faults.len() - 1, "more of its arguments does not fit", "more of its arguments do not fit");
    let more = more.map(|more| format!("; {more}")).unwrap_or_default();
    let message = format!("{id} does not fit {of}: {}{more}", faults[0].message);
    let mut finding = Finding::new(&RULE.text, id, message);
    for fault in faults {
        let (source, span, role) = fault.at;
        finding = finding.at(source, span, role);
        if let Some(fix) = fault.fix {
            finding = finding.fix(fix);
        }
    }
    let constructor = all.first().map_or(typed.declared.name.span, |one| one.name.span);
    finding = finding.at(code, constructor, "the constructor");
    let origin = Origin { node: Graph::service(typed.index), while_building: true };
    finding.advice("give what the constructor takes").failing([origin])
}
