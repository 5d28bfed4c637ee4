//! Text of audited files in Markdown: nothing in it becomes markup, a link or a mention.

use crate::out::safe;

/// A name as code, by CommonMark: a fence longer than any run of backticks inside.
pub(crate) fn code(text: &str) -> String {
    let text = safe(text);
    let fence = "`".repeat(longest_fence(&text) + 1);
    if text.trim().is_empty() {
        return "`(empty)`".to_owned();
    }
    // A space on both sides is taken away again; without it a backtick at an end would belong to the fence.
    let space = if text.starts_with(['`', ' ']) || text.ends_with(['`', ' ']) { " " } else { "" };
    format!("{fence}{space}{text}{space}{fence}")
}

/// Lines as code of a language, between fences that are longer than any inside.
pub(crate) fn block(text: &str, language: &str) -> String {
    let safe = |line: &str| line.split('\t').map(safe).collect::<Vec<_>>().join("\t");
    let text: String = text.lines().map(|line| safe(line) + "\n").collect();
    let fence = "`".repeat(longest_fence(&text).max(2) + 1);
    format!("{fence}{language}\n{text}{fence}\n")
}

fn longest_fence(text: &str) -> usize {
    text.split(|character| character != '`').map(str::len).max().unwrap_or(0)
}

/// A sentence as text. Punctuation that means something is escaped, and what hosts make links of is broken up by an
/// empty comment, which nobody sees.
pub(crate) fn plain(text: &str) -> String {
    const BREAK: &str = "<!-- -->";
    let text = safe(text);
    let mut escaped = String::with_capacity(text.len() + 16);
    for (at, character) in text.char_indices() {
        let before = &text[..at];
        let is_linked = match character {
            '.' => before.len() >= 3 && before[before.len() - 3..].eq_ignore_ascii_case("www"),
            ':' => text[at..].starts_with("://") || before.to_ascii_lowercase().ends_with("mailto"),
            _ => false,
        };
        if is_linked {
            escaped.push_str(BREAK);
        }
        if matches!(
            character,
            '\\' | '`'
                | '*'
                | '_'
                | '{'
                | '}'
                | '['
                | ']'
                | '<'
                | '>'
                | '('
                | ')'
                | '#'
                | '+'
                | '-'
                | '!'
                | '|'
                | '~'
                | '&'
                | '$'
                | '='
        ) {
            escaped.push('\\');
        }
        escaped.push(character);
        if matches!(character, '@' | '#') {
            escaped.push_str(BREAK);
        }
    }
    escaped
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("depot.yard", "`depot.yard`")]
    #[case("a`b", "``a`b``")]
    #[case("`", "`` ` ``")]
    #[case("a``", "``` a`` ```")]
    #[case("", "`(empty)`")]
    #[case("a\nb", "`a\\u{a}b`")]
    fn names_are_code(#[case] text: &str, #[case] markdown: &str) {
        assert_eq!(code(text), markdown);
    }

    #[rstest]
    #[case("+\ta\n-b\u{1b}\n", "```diff\n+\ta\n-b\\u{1b}\n```\n")]
    #[case("+```\n", "````diff\n+```\n````\n")]
    fn lines_are_code(#[case] text: &str, #[case] markdown: &str) {
        assert_eq!(block(text, "diff"), markdown);
    }

    #[rstest]
    #[case("a *b* <i>", "a \\*b\\* \\<i\\>")]
    #[case("see www.x and @crew", "see www<!-- -->.x and @<!-- -->crew")]
    #[case("http://x", "http<!-- -->://x")]
    fn sentences_are_text(#[case] text: &str, #[case] markdown: &str) {
        assert_eq!(plain(text), markdown);
    }
}
