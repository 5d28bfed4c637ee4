//! Mistakes in what a workspace says of code, and code that nobody writes by hand.

use crate::said::reader;
use corvant_core::finding::BlindSpotKind;
use corvant_read::workspace::{self, Workspace, WorkspaceError};
use rstest::rstest;
use std::time::{Duration, Instant};

fn read(reader: &str, path: &str, code: &str) -> Result<Workspace, WorkspaceError> {
    workspace::from_texts([("corvant.toml", reader), (path, code)])
}

#[rstest]
#[case::no_piece_of_code("each = { code = 'stock.keep(' }", "is not one piece of code")]
#[case::two_pieces("each = { code = 'one(); two();' }", "is not one piece of code")]
#[case::anything("each = { code = '$X' }", "it would match any piece of code")]
#[case::no_code("each = { items = '$.X' }", "the code of items has a field `code`")]
#[case::a_hole_of_the_item_that_it_lacks(
    "each = { code = 'stock.keep($ID)' }\nneed = [{ code = 'stock.take($N)', inside = '$.MAKER', service = '$.N' }]",
    "the code of the item has no hole $MAKER"
)]
#[case::a_hole_of_the_need_that_it_lacks(
    "each = { code = 'stock.keep($ID)' }\nneed = [{ code = 'stock.take($N)', same = { S = '$.ID' }, service = '$.N' }]",
    "the code of the need has no hole $S"
)]
#[case::no_hole_at_all(
    "each = { code = 'stock.keep($ID)' }\nneed = [{ code = 'stock.take($N)', inside = '$.a.b', service = '$.N' }]",
    "$.a.b is not the path of a hole"
)]
#[case::where_there_is_no_code(
    "each = '$.types[*]'\nneed = [{ inside = '$.A', service = '$.N' }]",
    "`inside`, `same` and `within` are about `code`"
)]
#[case::a_condition_that_must_not_hold(
    "each = { code = 'stock.keep($ID)' }\nwhen = { map = { '!drill()' = 'x' } }",
    "write drill(), and say which stage it is where that does not hold"
)]
#[case::a_form_without_a_condition(
    "each = { code = 'stock.keep($ID)' }\nwhen = { code = 'only($X)', map = { 'a' = 'x' } }",
    "each form of a condition has a hole $COND"
)]
fn a_mistake_is_told(#[case] take: &str, #[case] expected: &str) {
    let reader = reader("java", &format!("[[reader.take]]\nwhat = 'service'\nid = '$.ID'\n{take}\n"));
    let error = read(&reader, "depot/A.java", "class A {}").expect_err("a mistake").to_string();
    assert!(error.contains(expected), "{error}");
}

#[rstest]
#[case::without_a_language("syntax = 'code'", "a reader has no field")]
#[case::in_a_language_that_is_none("syntax = 'code'\nlanguage = 'latin'", "latin")]
#[case::in_another_syntax("syntax = 'yaml'", "belong to a reader of `syntax = \"code\"`")]
fn code_has_a_language(#[case] syntax: &str, #[case] expected: &str) {
    let reader = format!(
        "[[reader]]\nname = 'x'\nfiles = ['**/*.java']\nmodule = 'a'\n{syntax}\n\
         [[reader.take]]\nwhat = 'service'\nid = '$.ID'\neach = {{ code = 'stock.keep($ID)' }}\n"
    );
    let error = read(&reader, "depot/A.java", "class A {}").expect_err("a mistake").to_string();
    assert!(
        error.contains(expected) || expected.starts_with("a reader has") && error.contains("`language`"),
        "{error}"
    );
}

#[test]
fn a_file_in_another_language_is_a_finding() {
    let reader = reader(
        "java",
        "[[reader.take]]\nwhat = 'service'\nid = '$.ID'\neach = { code = 'stock.keep($ID)' }\n",
    );
    let workspace = read(&reader, "depot/a.php", "<?php stock.keep('a');").unwrap();
    let troubles = workspace.manifests.iter().flat_map(|manifest| &manifest.facts.troubles);
    assert!(
        troubles.into_iter().any(|trouble| trouble.message.contains("not that of the reader's language"))
    );
}

/// Code that nobody writes by hand takes no long time, and is a blind spot where it is not looked into.
#[rstest]
#[case::type_arguments("a<".repeat(16_000), true)]
#[case::brackets("(".repeat(100_000), true)]
#[case::braces("{".repeat(100_000), true)]
#[case::calls("f(".repeat(50_000), true)]
#[case::a_long_chain(format!("class A {{ void f() {{ s{}; }} }}", ".keep(\"x\")".repeat(20_000)), true)]
#[case::many_registrations(format!("class A {{ void f() {{ {} }} }}", "stock.keep(\"x\");".repeat(50_000)), false)]
#[case::deep_blocks(format!("class A {{ void f() {{ {}stock.keep(\"x\");{} }} }}", "if (a) {".repeat(390), "}".repeat(390)), false)]
#[case::many_classes("class A { void f() { stock.keep(\"x\"); } }\n".repeat(5_000), false)]
#[case::a_long_text(format!("class A {{ String s = \"{}\"; }}", "x".repeat(4_000_000)), false)]
#[case::many_signs("?:".repeat(50_000), false)]
fn hostile_code(#[case] code: String, #[case] is_unseen: bool) {
    let takes = "[[reader.take]]\nwhat = 'service'\neach = { code = ['$S.keep($ID)', 'stock.keep($ID)'] }\nid = '$.ID'\nprovider = \"$['@class']\"\n\
                 [[reader.take]]\nwhat = 'provider'\neach = '$.types[*]'\nid = '$.name'\n[[reader.take.register]]\ncode = 'stock.take($ID)'\nwithin = { method = 'f' }\nservice = '$.ID'\n";
    let code = format!("// keep\n{code}\n");
    let start = Instant::now();
    let workspace = read(&reader("java", takes), "depot/A.java", &code).unwrap();
    assert!(start.elapsed() < Duration::from_secs(60), "{:?}", start.elapsed());
    let told = workspace.blind_spots.iter().any(|spot| {
        spot.kind == BlindSpotKind::DoubtfulCode && spot.message.contains("was not looked for in it")
    });
    assert_eq!(told, is_unseen, "{:#?}", workspace.blind_spots);
}

/// Every beginning of a file, and a file with any byte taken out, is read without harm.
#[rstest]
#[case::java(
    "java",
    "A.java",
    "class A extends Provider { void register(S s) { if (x()) { s.keep(\"a\", p -> new B(p.take(\"c\"))).once(); } } }"
)]
#[case::kotlin(
    "kotlin",
    "A.kt",
    "class A : Provider() { fun register(s: S) { if (x()) { s.keep(\"a\") { p -> B(p.take(\"c\")) }.once() } } }"
)]
#[case::csharp(
    "csharp",
    "A.cs",
    "class A : Provider { void register(S s) {\n#if X\n s.keep<A, B>(\"a\", p => new B(p.take(\"c\"))).once();\n#endif\n } }"
)]
#[case::php(
    "php",
    "A.php",
    "<?php class A extends Provider { function register($s) { if (x()) { $s->keep('a', fn($p) => new B($p->take('c')))->once(); } } }"
)]
#[case::typescript(
    "typescript",
    "A.ts",
    "class A extends Provider { register(s: S) { if (x()) { s.keep('a', p => new B(p.take('c'))).once(); } } }"
)]
#[case::python(
    "python",
    "A.py",
    "class A(Provider):\n    def register(self, s):\n        if x():\n            s.keep('a', lambda p: B(p.take('c'))).once()\n"
)]
fn broken_code(#[case] language: &str, #[case] file: &str, #[case] code: &str) {
    let sign = if language == "php" { "->" } else { "." };
    let takes = format!(
        "[[reader.take]]\nwhat = 'service'\neach = {{ code = '$S{sign}keep($$$ALL)' }}\nid = '$.ALL[0]'\nprovider = \"$['@class']\"\n\
         [[reader.take.need]]\ncode = '$S{sign}take($ID)'\nservice = '$.ID'\n\
         [[reader.take]]\nwhat = 'provider'\neach = '$.types[*]'\nid = '$.name'\nwithin = {{ class-extends = 'Provider' }}\n"
    );
    let reader = reader(language, &takes);
    let path = format!("depot/{file}");
    for at in 0..code.len() {
        for text in [code[..at].to_owned(), [&code[..at], &code[at + 1..]].concat()] {
            let workspace = read(&reader, &path, &text).unwrap();
            let failed = workspace.manifests.iter().flat_map(|manifest| &manifest.facts.troubles);
            let failed = failed.into_iter().find(|trouble| trouble.message.contains("the program failed"));
            assert!(failed.is_none(), "{text}: {failed:?}");
        }
    }
}
