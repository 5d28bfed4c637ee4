//! `unreadable-file`: a file or folder that could not be read.

use corvant_testing::expect;

#[test]
fn what_the_unread_text_may_define_is_not_missing() {
    expect(
        r#"
//- clock.wiring.yaml
corvant: 1
module: clock
services:
  clock.system: { type: velmora.clock.SystemClock, offers: [Clock }
                                                           ^ unreadable-file clock.wiring.yaml
//- web.wiring.yaml
corvant: 1
module: web
services:
  web.banner: { type: velmora.web.Banner }
entries:
  station-clock:
    needs: { clock: { contract: Clock }, main: { service: clock.system }, banner: { service: web.banner } }
"#,
    );
}

#[test]
fn what_the_unread_text_uses_is_not_unused() {
    expect(
        r#"
//- clock.wiring.yaml
corvant: 1
module: clock
services:
  clock.system: { type: velmora.clock.SystemClock }
  clock.spare: { type: velmora.clock.SpareClock }
  ^^^^^^^^^^^ unused-service clock.spare
entries:
  tick: {}
//- web.wiring.yaml
corvant: 1
module: web
entries:
  station-clock: { needs: { clock: { service: clock.system }
 unreadable-file web.wiring.yaml
"#,
    );
}
