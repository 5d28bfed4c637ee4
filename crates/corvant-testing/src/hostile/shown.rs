//! What may be written to a terminal, a file or a pipe. This is said here once more, apart from the program.

/// The first character in a text that what shows it would act on. The program's own colours are none, if there may be
/// any.
pub fn harmful(text: &str, may_be_colored: bool) -> Option<char> {
    let mut rest = text;
    while let Some(at) = rest.find(is_harmful) {
        let behind = &rest[at..];
        match behind.strip_prefix("\u{1b}[").filter(|_| may_be_colored).and_then(color) {
            Some(after) => rest = after,
            None => return behind.chars().next(),
        }
    }
    None
}

/// What stands behind a colour: numbers, semicolons and an `m`.
fn color(text: &str) -> Option<&str> {
    text.trim_start_matches(|character: char| character.is_ascii_digit() || character == ';')
        .strip_prefix('m')
}

fn is_harmful(character: char) -> bool {
    let code = u32::from(character);
    match code {
        0x0a => false,
        0x00..=0x1f | 0x7f..=0x9f | 0x61c | 0x200e | 0x200f | 0x2028..=0x202e | 0x2066..=0x2069 => true,
        _ => (0xe_0000..=0xe_007f).contains(&code),
    }
}

#[cfg(test)]
mod tests {
    use super::harmful;
    use rstest::rstest;

    #[rstest]
    #[case::plain("žluť\nx", false, None)]
    #[case::color("\u{1b}[1;31mx\u{1b}[0m", true, None)]
    #[case::no_color_asked_for("\u{1b}[0m", false, Some('\u{1b}'))]
    #[case::more_than_a_color("\u{1b}[1mx\u{1b}[2J", true, Some('\u{1b}'))]
    #[case::second_set("\u{9b}31m", true, Some('\u{9b}'))]
    #[case::direction("a\u{202e}b", true, Some('\u{202e}'))]
    #[case::tag("\u{e0041}", false, Some('\u{e0041}'))]
    fn what_a_terminal_acts_on_is_found(
        #[case] text: &str,
        #[case] may_be_colored: bool,
        #[case] expected: Option<char>,
    ) {
        assert_eq!(harmful(text, may_be_colored), expected);
    }
}
