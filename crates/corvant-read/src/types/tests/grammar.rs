//! What a grammar's parser makes of types and their members: another opinion, which the skim is held against.

use super::super::Language;
use tree_sitter::{Language as Grammar, Node, Parser};

/// A type and its members, as far as both can tell.
#[derive(Clone, Debug, Default, PartialEq, Eq, PartialOrd, Ord)]
pub(super) struct Declared {
    /// Its name with those of the types around it.
    pub(super) name: String,
    /// The short names of what it says it is one of.
    pub(super) supers: Vec<String>,
    /// The names of the parameters, constructor by constructor.
    pub(super) constructors: Vec<Vec<String>>,
    /// Each method with the names of its parameters.
    pub(super) methods: Vec<(String, Vec<String>)>,
}

impl Declared {
    /// Itself and its members.
    pub(super) fn lines(&self) -> Vec<String> {
        let Self { name, supers, .. } = self;
        let methods = self.methods.iter().map(|(method, names)| format!("{name}.{method}{names:?}"));
        let constructors = self.constructors.iter().map(|names| format!("{name} new{names:?}"));
        [format!("{name} {supers:?}")].into_iter().chain(constructors).chain(methods).collect()
    }

    /// The same, in an order that says nothing.
    pub(super) fn sorted(mut self) -> Self {
        self.supers.sort();
        self.constructors.sort();
        self.methods.sort();
        self
    }
}

/// The last part of a name that is written with its scope and its arguments.
pub(super) fn short(written: &str) -> String {
    let written = written.split(" by ").next().unwrap_or(written);
    let mut depth = 0_usize;
    let outside = written.chars().filter(|&sign| match sign {
        '<' => {
            depth += 1;
            false
        }
        '>' => {
            depth = depth.saturating_sub(1);
            false
        }
        _ => depth == 0,
    });
    let name: String = outside.collect();
    let name = name.split(['(', '[', '{', '?']).next().unwrap_or_default().trim();
    let name = name.split_whitespace().next_back().unwrap_or_default();
    name.rsplit(['.', '\\', ':']).next().unwrap_or(name).trim_matches(['`', '@']).to_owned()
}

fn grammar(language: Language) -> Grammar {
    match language {
        Language::Java => tree_sitter_java::LANGUAGE.into(),
        Language::Kotlin => tree_sitter_kotlin_ng::LANGUAGE.into(),
        Language::CSharp => tree_sitter_c_sharp::LANGUAGE.into(),
        Language::Php => tree_sitter_php::LANGUAGE_PHP.into(),
        Language::TypeScript => tree_sitter_typescript::LANGUAGE_TYPESCRIPT.into(),
        Language::Python => tree_sitter_python::LANGUAGE.into(),
        Language::ClassFile => unreachable!("class files have no grammar"),
    }
}

const TYPES: &[&str] = &[
    "class_declaration",
    "abstract_class_declaration",
    "interface_declaration",
    "enum_declaration",
    "record_declaration",
    "record_struct_declaration",
    "struct_declaration",
    "trait_declaration",
    "annotation_type_declaration",
    "class_definition",
    "object_declaration",
    "companion_object",
    "delegate_declaration",
];
const METHODS: &[&str] = &[
    "method_declaration",
    "annotation_type_element_declaration",
    "method_definition",
    "method_signature",
    "abstract_method_signature",
    "function_definition",
    "function_declaration",
];
const CONSTRUCTORS: &[&str] = &["constructor_declaration", "secondary_constructor"];
/// What may hold declarations that nobody outside can name.
const BODIES: &[&str] = &[
    "constructor_declaration",
    "compact_constructor_declaration",
    "secondary_constructor",
    "static_initializer",
    "anonymous_initializer",
    "object_creation_expression",
    "anonymous_class",
    "object_literal",
    "lambda_expression",
    "lambda_literal",
    "arrow_function",
    "function_expression",
    "anonymous_function",
    "field_declaration",
    "property_declaration",
    "enum_constant",
    "enum_entry",
    "arrow_expression_clause",
    "function_body",
    "getter",
    "setter",
    "statement_block",
    "class",
    "object_type",
];
/// What is around names and hides none.
const SCOPES: &[&str] = &["internal_module", "module"];
const PARAMETERS: &[&str] = &[
    "formal_parameter",
    "spread_parameter",
    "simple_parameter",
    "property_promotion_parameter",
    "variadic_parameter",
    "required_parameter",
    "optional_parameter",
    "parameter",
    "class_parameter",
    "identifier",
    "default_parameter",
    "typed_default_parameter",
    "typed_parameter",
    "list_splat_pattern",
    "dictionary_splat_pattern",
];

/// A text with its tree.
struct Tree<'t> {
    text: &'t str,
    language: Language,
}

/// A node that is still to be looked at.
struct Visit<'t> {
    node: Node<'t>,
    /// The names around it.
    around: String,
    /// The type that it may be a member of.
    of: Option<usize>,
    /// Whether nobody outside can name what is in it.
    is_hidden: bool,
    /// Whether it is right inside of what is around names and hides none.
    is_in_scope: bool,
}

/// What a text declares, and the line of the first thing that the parser finds wrong in it.
pub(super) fn declared(text: &str, language: Language) -> (Vec<Declared>, Option<usize>) {
    let mut parser = Parser::new();
    parser.set_language(&grammar(language)).unwrap();
    let tree = parser.parse(text, None).unwrap();
    let root = tree.root_node();
    let tree = Tree { text, language };
    let found = tree.declared(root);
    let wrong = root.has_error().then(|| first_error(root)).or_else(|| tree.swallowed(root));
    (found.into_iter().map(Declared::sorted).collect(), wrong)
}

fn first_error(root: Node<'_>) -> usize {
    let mut node = root;
    while let Some(inner) =
        node.children(&mut node.walk()).find(|inner| inner.has_error() || inner.is_missing())
    {
        node = inner;
    }
    node.start_position().row + 1
}

fn children(node: Node<'_>) -> Vec<Node<'_>> {
    node.named_children(&mut node.walk()).filter(|child| !child.kind().ends_with("comment")).collect()
}

fn child<'t>(node: Node<'t>, kind: &str) -> Option<Node<'t>> {
    children(node).into_iter().find(|child| child.kind() == kind)
}

impl<'t> Tree<'t> {
    fn of(&self, node: Node<'_>) -> &'t str {
        &self.text[node.byte_range()]
    }

    fn declared(&self, root: Node<'t>) -> Vec<Declared> {
        let mut found: Vec<Declared> = Vec::new();
        let mut waiting =
            vec![Visit { node: root, around: String::new(), of: None, is_hidden: false, is_in_scope: false }];
        while let Some(Visit { node, mut around, mut of, mut is_hidden, is_in_scope }) = waiting.pop() {
            let kind = node.kind();
            let name = node.child_by_field_name("name");
            if let Some(name) = name.filter(|_| TYPES.contains(&kind)) {
                let is_mark =
                    child(node, "modifiers").is_some_and(|those| self.of(those).contains("annotation"));
                if is_hidden || self.language == Language::Kotlin && is_mark {
                    continue;
                }
                let dot = if around.is_empty() { "" } else { "." };
                around = format!("{around}{dot}{}", self.of(name).trim_start_matches('@').trim_matches('`'));
                of = Some(found.len());
                found.push(self.declaration(node, &around));
            } else {
                if let Some(of) = of.filter(|_| !is_hidden) {
                    self.member(node, &mut found[of]);
                }
                is_hidden |= BODIES.contains(&kind) && !is_in_scope || METHODS.contains(&kind);
            }
            // What is added to another file's names is no declaration of this one.
            let is_in_scope = SCOPES.contains(&kind) && name.is_some_and(|name| name.kind() != "string");
            let mut cursor = node.walk();
            waiting.extend(node.named_children(&mut cursor).map(|node| Visit {
                node,
                around: around.clone(),
                of,
                is_hidden,
                is_in_scope,
            }));
        }
        found
    }

    /// The line of a type's body that the parser takes for an argument of what the type delegates to.
    fn swallowed(&self, root: Node<'t>) -> Option<usize> {
        let mut waiting = vec![root];
        while let Some(node) = waiting.pop() {
            if node.kind() == "explicit_delegation" && self.of(node).contains('{') {
                return Some(node.start_position().row + 1);
            }
            waiting.extend(children(node));
        }
        None
    }

    fn declaration(&self, node: Node<'t>, path: &str) -> Declared {
        let constructors = match self.language {
            Language::CSharp if node.kind() != "delegate_declaration" => {
                child(node, "parameter_list").map(|list| self.parameters(list))
            }
            Language::Java if node.kind() == "record_declaration" => {
                node.child_by_field_name("parameters").map(|list| self.parameters(list))
            }
            Language::Kotlin => child(node, "primary_constructor").map(|primary| {
                child(primary, "class_parameters").map(|list| self.parameters(list)).unwrap_or_default()
            }),
            _ => None,
        };
        // Marks may stand before what is inherited.
        let supers = self.supers(node).into_iter().map(|above| match above.kind() {
            "delegation_specifier" => children(above).last().copied().unwrap_or(above),
            _ => above,
        });
        let supers = supers.map(|above| match short(self.of(above)).as_str() {
            // A function, or what one gives.
            "" => "unknown".to_owned(),
            _ if above.kind() == "call" => "unknown".to_owned(),
            name => name.to_owned(),
        });
        let supers = supers.collect();
        let constructors = constructors.into_iter().collect();
        Declared { name: path.to_owned(), supers, constructors, methods: Vec::new() }
    }

    fn supers(&self, node: Node<'t>) -> Vec<Node<'t>> {
        let mut supers = Vec::new();
        for part in children(node) {
            match part.kind() {
                "superclass"
                | "base_clause"
                | "class_interface_clause"
                | "delegation_specifiers"
                | "extends_type_clause" => supers.extend(children(part)),
                "super_interfaces" | "extends_interfaces" => {
                    supers.extend(children(part).into_iter().flat_map(children));
                }
                "argument_list" if self.language == Language::Python => {
                    supers.extend(children(part).into_iter().filter(|one| one.kind() != "keyword_argument"));
                }
                "base_list" => {
                    supers.extend(children(part).into_iter().filter(|one| one.kind() != "argument_list"));
                }
                "class_heritage" => {
                    for clause in children(part) {
                        match clause.kind() {
                            "extends_clause" => supers.extend(clause.child_by_field_name("value")),
                            _ => supers.extend(children(clause)),
                        }
                    }
                }
                "declaration_list" => {
                    let uses = children(part).into_iter().filter(|one| one.kind() == "use_declaration");
                    let used = uses.flat_map(children).filter(|one| one.kind() != "use_list");
                    supers.extend(used);
                }
                _ => {}
            }
        }
        supers
    }

    fn member(&self, node: Node<'t>, to: &mut Declared) {
        let kind = node.kind();
        let list =
            node.child_by_field_name("parameters").or_else(|| child(node, "function_value_parameters"));
        let parameters = list.map(|list| self.parameters(list)).unwrap_or_default();
        let is_static =
            children(node).iter().any(|one| one.kind() == "modifier" && self.of(*one) == "static");
        if CONSTRUCTORS.contains(&kind) && !(is_static && self.language == Language::CSharp) {
            to.constructors.push(parameters);
            return;
        }
        let Some(name) = node.child_by_field_name("name").filter(|_| METHODS.contains(&kind)) else { return };
        let is_hidden = match self.language {
            Language::CSharp => child(node, "explicit_interface_specifier").is_some(),
            // What is said to a type from outside is no method of it.
            Language::Kotlin => children(node).iter().any(|one| {
                !matches!(one.kind(), "modifiers" | "type_parameters") && one.start_byte() < name.start_byte()
            }),
            Language::TypeScript => matches!(name.kind(), "computed_property_name" | "string" | "number"),
            _ => false,
        };
        if is_hidden {
            return;
        }
        let name = self.of(name).trim_matches(['`', '@', '"', '\'']).to_owned();
        match (self.language, name.as_str()) {
            (Language::Php, name) if name.eq_ignore_ascii_case("__construct") => {
                to.constructors.push(parameters);
            }
            (Language::TypeScript, "constructor") => to.constructors.push(parameters),
            (Language::Python, "__init__") => {
                to.constructors = vec![parameters.into_iter().skip(1).collect()];
            }
            (Language::Python, _) => {
                let receiver = usize::from(!self.is_static_in_python(node));
                to.methods.push((name, parameters.into_iter().skip(receiver).collect()));
            }
            _ => to.methods.push((name, parameters)),
        }
    }

    fn is_static_in_python(&self, method: Node<'t>) -> bool {
        let around = method.parent().filter(|around| around.kind() == "decorated_definition");
        around.is_some_and(|around| {
            children(around)
                .iter()
                .any(|one| one.kind() == "decorator" && self.of(*one).contains("staticmethod"))
        })
    }

    fn parameters(&self, list: Node<'t>) -> Vec<String> {
        let all = children(list).into_iter().filter(|one| PARAMETERS.contains(&one.kind()));
        let mut names: Vec<String> = all.filter_map(|one| self.parameter(one)).collect();
        if self.language == Language::CSharp {
            // What takes any number of values stands in the list itself.
            names.extend(list.child_by_field_name("name").map(|name| self.name(name)));
        }
        names
    }

    /// The name of a parameter; without text: it has none. `None`: it is none.
    fn parameter(&self, one: Node<'t>) -> Option<String> {
        let name = match (self.language, one.kind()) {
            (Language::Java, "spread_parameter") => {
                let declared = child(one, "variable_declarator")?;
                declared.child_by_field_name("name").unwrap_or(declared)
            }
            (Language::TypeScript, _) => {
                let pattern = one.child_by_field_name("pattern")?;
                match pattern.kind() {
                    "this" => return None,
                    "identifier" => pattern,
                    "rest_pattern" => children(pattern).first().copied()?,
                    _ => return Some(String::new()),
                }
            }
            (Language::Python, "typed_parameter") => children(one).first().copied()?,
            (Language::Python, "identifier" | "list_splat_pattern" | "dictionary_splat_pattern") => one,
            (Language::Kotlin, _) => child(one, "identifier")?,
            _ => one.child_by_field_name("name")?,
        };
        Some(self.name(name))
    }

    fn name(&self, node: Node<'t>) -> String {
        let sign: &[char] = if self.language == Language::Php { &['&', '$'] } else { &['*', '@'] };
        self.of(node).trim_start_matches(sign).trim_matches('`').to_owned()
    }
}
