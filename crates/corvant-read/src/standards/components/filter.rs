//! Filters (RFC 4515, as OSGi Core 3.2.7 writes them): `(&(line=red)(!(stop=*depot*)))`.

/// How deep filters may stand in one another.
const DEPTH_LIMIT: usize = 100;

/// A filter over properties.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum Filter {
    All(Vec<Filter>),
    Any(Vec<Filter>),
    Not(Box<Filter>),
    Item { attribute: String, operator: Operator, value: String },
}

/// How an attribute is compared.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Operator {
    Equal,
    About,
    AtLeast,
    AtMost,
}

/// What can be said of a filter before anything runs.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum Answer {
    No,
    Unknown,
    Yes,
}

impl Filter {
    /// Reads a filter; the error says what is wrong.
    pub(crate) fn parse(text: &str) -> Result<Self, String> {
        let mut parser = Parser { rest: text.trim() };
        let filter = parser.filter(0)?;
        match parser.rest.trim() {
            "" => Ok(filter),
            rest => Err(format!("`{rest}` stands behind its end")),
        }
    }

    /// Whether the filter lets something through. `item` answers for one comparison.
    pub(crate) fn answer(&self, item: &impl Fn(&str, Operator, &str) -> Answer) -> Answer {
        match self {
            Self::All(parts) => parts.iter().map(|part| part.answer(item)).min().unwrap_or(Answer::Yes),
            Self::Any(parts) => parts.iter().map(|part| part.answer(item)).max().unwrap_or(Answer::No),
            Self::Not(part) => match part.answer(item) {
                Answer::No => Answer::Yes,
                Answer::Unknown => Answer::Unknown,
                Answer::Yes => Answer::No,
            },
            Self::Item { attribute, operator, value } => item(attribute, *operator, value),
        }
    }
}

struct Parser<'text> {
    rest: &'text str,
}

impl Parser<'_> {
    fn filter(&mut self, depth: usize) -> Result<Filter, String> {
        if depth > DEPTH_LIMIT {
            return Err(format!("filters are nested more than {DEPTH_LIMIT} deep"));
        }
        self.expect('(')?;
        self.rest = self.rest.trim_start();
        let filter = match self.rest.chars().next() {
            Some('&') => Filter::All(self.several(depth)?),
            Some('|') => Filter::Any(self.several(depth)?),
            Some('!') => {
                self.rest = &self.rest[1..];
                Filter::Not(Box::new(self.filter(depth + 1)?))
            }
            _ => self.item()?,
        };
        self.expect(')')?;
        Ok(filter)
    }

    fn several(&mut self, depth: usize) -> Result<Vec<Filter>, String> {
        self.rest = self.rest[1..].trim_start();
        let mut filters = Vec::new();
        while self.rest.starts_with('(') {
            filters.push(self.filter(depth + 1)?);
            self.rest = self.rest.trim_start();
        }
        if filters.is_empty() {
            Err("`&` and `|` stand before one filter at least".to_owned())
        } else {
            Ok(filters)
        }
    }

    fn item(&mut self) -> Result<Filter, String> {
        let end = self.rest.find(['=', '~', '<', '>', '(', ')']).unwrap_or(self.rest.len());
        let attribute = self.rest[..end].trim().to_owned();
        self.rest = &self.rest[end..];
        let operators = [
            ("~=", Operator::About),
            (">=", Operator::AtLeast),
            ("<=", Operator::AtMost),
            ("=", Operator::Equal),
        ];
        let known = operators.iter().find(|(sign, _)| self.rest.starts_with(sign));
        let Some((sign, operator)) = known.filter(|_| !attribute.is_empty()) else {
            return Err("a comparison is written `attribute=value`".to_owned());
        };
        self.rest = &self.rest[sign.len()..];
        let mut escaped = false;
        let end = self.rest.find(|letter| {
            let ends = !escaped && matches!(letter, '(' | ')');
            escaped = letter == '\\' && !escaped;
            ends
        });
        let end = end.unwrap_or(self.rest.len());
        let value = self.rest[..end].to_owned();
        self.rest = &self.rest[end..];
        Ok(Filter::Item { attribute, operator: *operator, value })
    }

    fn expect(&mut self, sign: char) -> Result<(), String> {
        self.rest = self.rest.trim_start();
        match self.rest.strip_prefix(sign) {
            Some(rest) => {
                self.rest = rest;
                Ok(())
            }
            None if self.rest.is_empty() => Err(format!("it ends where `{sign}` is expected")),
            None => Err(format!("`{sign}` is expected before `{}`", self.rest)),
        }
    }
}

/// Whether one value of a property passes a comparison.
pub(crate) fn passes(known: &str, operator: Operator, wanted: &str) -> bool {
    let order = || match (known.trim().parse::<f64>(), wanted.trim().parse::<f64>()) {
        (Ok(known), Ok(wanted)) => known.partial_cmp(&wanted),
        _ => Some(known.cmp(wanted)),
    };
    match operator {
        Operator::Equal => is_like(known, wanted),
        Operator::About => {
            let plain = |text: &str| text.to_lowercase().replace(char::is_whitespace, "");
            plain(known) == plain(wanted)
        }
        Operator::AtLeast => order().is_some_and(std::cmp::Ordering::is_ge),
        Operator::AtMost => order().is_some_and(std::cmp::Ordering::is_le),
    }
}

/// Whether a text is as a pattern, in which `*` stands for anything and a backslash takes its meaning away.
fn is_like(text: &str, pattern: &str) -> bool {
    let mut parts: Vec<String> = vec![String::new()];
    let mut letters = pattern.chars();
    while let Some(letter) = letters.next() {
        let literal = match letter {
            '*' => {
                parts.push(String::new());
                continue;
            }
            '\\' => letters.next(),
            letter => Some(letter),
        };
        parts.last_mut().expect("there is one from the start").extend(literal);
    }
    let [first, middle @ .., last] = parts.as_slice() else { return text == parts[0] };
    let Some(mut rest) = text.strip_prefix(first.as_str()) else { return false };
    for part in middle {
        match rest.find(part.as_str()) {
            Some(at) => rest = &rest[at + part.len()..],
            None => return false,
        }
    }
    rest.ends_with(last.as_str())
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn ask(filter: &str) -> Answer {
        Filter::parse(filter).unwrap().answer(&|attribute, operator, value| match attribute {
            "line" if passes("red", operator, value) => Answer::Yes,
            "rank" if passes("10", operator, value) => Answer::Yes,
            "open" => Answer::Unknown,
            _ => Answer::No,
        })
    }

    #[rstest]
    #[case("(line=red)", Answer::Yes)]
    #[case("( line =blue)", Answer::No)]
    #[case("(line=r*d)", Answer::Yes)]
    #[case("(line=*)", Answer::Yes)]
    #[case("(line=r\\*d)", Answer::No)]
    #[case("(line~=R e d)", Answer::Yes)]
    #[case("(rank>=9)", Answer::Yes)]
    #[case("(rank<=9)", Answer::No)]
    #[case("(&(line=red)(rank>=9))", Answer::Yes)]
    #[case("(| (line=blue) (rank>=9) )", Answer::Yes)]
    #[case("(!(line=red))", Answer::No)]
    #[case("(&(line=red)(open=x))", Answer::Unknown)]
    #[case("(|(line=red)(open=x))", Answer::Yes)]
    #[case("(!(open=x))", Answer::Unknown)]
    fn filters_answer(#[case] filter: &str, #[case] expected: Answer) {
        assert_eq!(ask(filter), expected);
    }

    #[rstest]
    #[case("")]
    #[case("line=red")]
    #[case("(line=red")]
    #[case("(line)")]
    #[case("(&)")]
    #[case("(=x)")]
    #[case("(line=red))")]
    fn what_is_no_filter_is_refused(#[case] text: &str) {
        assert!(Filter::parse(text).is_err());
    }

    #[test]
    fn nesting_ends_somewhere() {
        assert!(Filter::parse(&"(!".repeat(100_000)).is_err());
    }
}
