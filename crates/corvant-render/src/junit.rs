//! The report as JUnit XML, for pipelines that show tests: a suite a module, a case a rule that was checked there.
//!
//! A case fails if a finding of its rule in its module is at or above the severity that fails the audit, so that the
//! pipeline's list and the exit status say the same. What is below that is the case's output. A case of which everything
//! is accepted is skipped, with the reason.

use crate::answers::address;
use crate::out::{Out, safe};
use crate::text::words::{NO_MODULE, counted, fails, module_of};
use corvant_core::audit::{Accepted, Report};
use corvant_core::finding::{Finding, RuleText, Severity};
use corvant_core::rules::TEXTS;
use corvant_core::wiring::Wiring;
use quick_xml::Writer;
use quick_xml::events::{BytesDecl, BytesEnd, BytesStart, BytesText, Event};
use std::collections::BTreeMap;
use std::fmt::Write as _;
use std::io::{self, Write as _};

/// What was found of one rule in one module.
#[derive(Default)]
struct Case<'a> {
    findings: Vec<&'a Finding>,
    accepted: Vec<&'a Accepted>,
}

/// By module, and in it by rule.
type Suites<'a> = BTreeMap<&'a str, BTreeMap<&'static str, Case<'a>>>;

/// Writes a report as JUnit XML. `fail_on` is the least severity that fails the audit; `None`: nothing does.
pub fn write(
    report: &Report,
    wiring: &Wiring,
    fail_on: Option<Severity>,
    out: &mut Out<'_>,
) -> io::Result<()> {
    let suites = suites(report, wiring);
    let checked = |rule: &&&RuleText| wiring.policy.severities.get(rule.name) != Some(&None);
    let rules: Vec<&RuleText> = TEXTS.iter().filter(checked).copied().collect();
    let is_failing = |finding: &Finding| fail_on.is_some_and(|fail_on| finding.severity <= fail_on);
    let counts = |cases: &BTreeMap<_, Case<'_>>| {
        let failing = cases.values().filter(|case| case.findings.iter().any(|finding| is_failing(finding)));
        let skipped = cases.values().filter(|case| case.is_skipped());
        (failing.count(), skipped.count())
    };
    let all: Vec<(usize, usize)> = suites.values().map(counts).collect();
    let mut pen = Pen { writer: Writer::new(out), wiring };
    pen.writer.write_event(Event::Decl(BytesDecl::new("1.0", Some("UTF-8"), None)))?;
    pen.line()?;
    let tests = rules.len() * suites.len();
    let failures: usize = all.iter().map(|(failing, _)| failing).sum();
    let skipped: usize = all.iter().map(|(_, skipped)| skipped).sum();
    let mut root = BytesStart::new("testsuites");
    count(&mut root, "Corvant", tests, failures, skipped);
    pen.open(root)?;
    for ((module, cases), (failures, skipped)) in suites.iter().zip(all) {
        let mut suite = BytesStart::new("testsuite");
        count(&mut suite, module, rules.len(), failures, skipped);
        pen.open(suite)?;
        for rule in &rules {
            pen.case(module, rule.name, cases.get(rule.name), is_failing)?;
        }
        pen.close("testsuite")?;
    }
    pen.close("testsuites")
}

/// Every module, whatever is found there, and what is found in none.
fn suites<'a>(report: &'a Report, wiring: &'a Wiring) -> Suites<'a> {
    let names = wiring.modules.iter().map(|module| wiring.text(module.module.name));
    let mut suites: Suites<'a> = names.map(|name| (name, BTreeMap::new())).collect();
    let mut case = |finding: &Finding, add: &mut dyn FnMut(&mut Case<'a>)| {
        add(suites
            .entry(module_of(wiring, finding).unwrap_or(NO_MODULE))
            .or_default()
            .entry(finding.rule.name)
            .or_default());
    };
    for finding in &report.findings {
        case(finding, &mut |case| case.findings.push(finding));
    }
    for accepted in &report.accepted {
        case(&accepted.finding, &mut |case| case.accepted.push(accepted));
    }
    suites
}

impl Case<'_> {
    /// Whether there is nothing but what was accepted.
    fn is_skipped(&self) -> bool {
        self.findings.is_empty() && !self.accepted.is_empty()
    }
}

/// Says what an element is of, and how many cases in it came out how.
fn count(element: &mut BytesStart<'_>, name: &str, tests: usize, failures: usize, skipped: usize) {
    element.push_attribute(("name", safe(name).as_ref()));
    for (field, count) in [("tests", tests), ("failures", failures), ("errors", 0), ("skipped", skipped)] {
        element.push_attribute((field, count.to_string().as_str()));
    }
}

/// Writes elements, a line each.
struct Pen<'p, 'w, 'a> {
    writer: Writer<&'p mut Out<'w>>,
    wiring: &'a Wiring,
}

impl Pen<'_, '_, '_> {
    fn line(&mut self) -> io::Result<()> {
        self.writer.get_mut().write_all(b"\n")
    }

    fn open(&mut self, element: BytesStart<'_>) -> io::Result<()> {
        self.writer.write_event(Event::Start(element))?;
        self.line()
    }

    fn close(&mut self, name: &str) -> io::Result<()> {
        self.writer.write_event(Event::End(BytesEnd::new(name)))?;
        self.line()
    }

    fn case(
        &mut self,
        module: &str,
        rule: &str,
        case: Option<&Case<'_>>,
        is_failing: impl Fn(&Finding) -> bool,
    ) -> io::Result<()> {
        let mut element = BytesStart::new("testcase");
        element.push_attribute(("classname", safe(module).as_ref()));
        element.push_attribute(("name", rule));
        let Some(case) = case else {
            self.writer.write_event(Event::Empty(element))?;
            return self.line();
        };
        self.open(element)?;
        let (failing, other): (Vec<&Finding>, Vec<&Finding>) =
            case.findings.iter().partition(|finding| is_failing(finding));
        if let Some(worst) = failing.iter().map(|finding| finding.severity).min() {
            let mut failure = BytesStart::new("failure");
            let message = match failing.as_slice() {
                [only] => safe(&only.message).into_owned(),
                all => counted(all.len(), "finding", "findings"),
            };
            failure.push_attribute(("message", message.as_str()));
            failure.push_attribute(("type", worst.word()));
            self.texts("failure", failure, &failing)?;
        } else if case.is_skipped() {
            let mut reasons: Vec<&str> =
                case.accepted.iter().map(|accepted| accepted.reason(self.wiring)).collect();
            reasons.sort_unstable();
            reasons.dedup();
            let mut skipped = BytesStart::new("skipped");
            let message = format!(
                "{} accepted: {}",
                counted(case.accepted.len(), "finding is", "findings are"),
                reasons.join("; ")
            );
            skipped.push_attribute(("message", safe(&message).as_ref()));
            self.writer.write_event(Event::Empty(skipped))?;
            self.line()?;
        }
        if !other.is_empty() {
            self.texts("system-out", BytesStart::new("system-out"), &other)?;
        }
        self.close("testcase")
    }

    /// An element that holds findings, each with its places and what can be done.
    fn texts(&mut self, name: &str, element: BytesStart<'_>, findings: &[&Finding]) -> io::Result<()> {
        self.writer.write_event(Event::Start(element))?;
        for finding in findings {
            let text = self.finding(finding);
            self.writer.write_event(Event::Text(BytesText::new(&text)))?;
        }
        self.close(name)
    }

    fn finding(&self, finding: &Finding) -> String {
        let mut text = format!("\n{} {}\n", finding.severity.word(), safe(&finding.subject));
        let _ = writeln!(text, "  {}", safe(&finding.message));
        for place in &finding.places {
            let at = address(self.wiring, place.source, place.span);
            let _ = writeln!(text, "  {}  {}", safe(&at), safe(&place.role));
        }
        if let Some(fails) = fails(self.wiring, &finding.reach) {
            let _ = writeln!(text, "  fails {}", safe(&fails));
        }
        for fix in &finding.fixes {
            let _ = writeln!(text, "  fix: {}", safe(&fix.title));
        }
        text
    }
}
