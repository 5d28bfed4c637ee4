//! `unscanned-mark`: a type is marked to be found, and lies where nobody looks.

use corvant_testing::expect;

#[test]
fn marks_count_by_what_they_are() {
    expect(
        r#"
//- corvant.toml
[[types]]
files = ["src/**"]
[[reader]]
name = "parts"
files = ["src/depot/*"]
syntax = "types"
module = "depot"
[[reader.take]]
what = "service"
each = "$.types[*]"
marked = "v.Part"
id = "$.name"
[[reader.take]]
what = "entry"
each = "$.types[*]"
marked = "v.Part"
id = "$.name"
[[reader.take.need]]
service = "$.name"
//- src/depot/Gate.java
package v.depot;
import v.Part;
@Part class Gate {}
//- src/yard/Yard.java
package v.yard;
import v.Part;
@Part class Yard {}
 ^^^^ unscanned-mark v.yard.Yard
@Part abstract class Base {}
@Part interface Place {}
@Other class Unmarked {}
//- src/yard/Shed.java
package v.yard;
import far.Part;
@Part class Shed {}
//- src/Part.java
package v;
@interface Part {}
"#,
    );
}
