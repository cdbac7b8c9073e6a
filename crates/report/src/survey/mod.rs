//! A survey, to be read or to be worked on.
//!
//! As JSON it is one object, format `fclerk survey`, version 1:
//!
//! | member | what it is |
//! |---|---|
//! | `format`, `version` | `"fclerk survey"` and 1 |
//! | `recordings` | the names of the recordings, in the order of the run |
//! | `exchanges`, `errors`, `unreadable_count` | numbers |
//! | `excluded` | an array of `reason` and `count` |
//! | `endpoints` | an array: `method`, `template`, `origin` (empty where there is one service only), `status` (`endpoint`, `method not allowed`, `unknown route`), `count`, and `responses`: `status` (null: no response), `media`, `body` (a shape's name, or words), `is_error_shape`, `count`, `addresses` (the first of them) |
//! | `shapes` | an array: `name`, `of` (`validation`, `other`), `count`, `addresses`, `text` (the whole shape in a line), `named_by` (how its violations name locations) |
//! | `comparisons` | an array, one for each kind of errors: `of`, `count`, `most` (a shape's name, or null), and `deviations`: `body`, `count`, `addresses`, `endpoints` (`endpoint` and `statuses`), `differences` (`pointer`, `kind`, and what the `usual` and this one (`here`) have) |
//! | `naming` | how validation errors name fields: `places` (an array: `place`, which is `own`, `prose` or `nowhere`, `count`, `addresses`), `several` (how many name more than one), `bounded` (there were too many refused requests to compare all of them), and `later`, fields that were named only after others were fixed (an array: `field`, `before`, `after`: the addresses of the two responses) |
//! | `inside` | how many successes have an error inside |
//! | `disclosed` | an array: `what` errors disclose, `count`, `addresses` |
//! | `unreadable` | what could not be read, the first of it |

mod outputs;
mod page;
mod wire;

pub use outputs::{html, markdown, overview, terminal};
pub use wire::json;
