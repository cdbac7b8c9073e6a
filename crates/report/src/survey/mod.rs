//! A survey, to be read or to be worked on.
//!
//! As JSON it is one object, format `fclerk survey`, version 1:
//!
//! | member | what it is |
//! |---|---|
//! | `format`, `version` | `"fclerk survey"` and 1 |
//! | `recordings` | the names of the recordings, in the order of the run |
//! | `exchanges`, `errors`, `lost` | numbers |
//! | `aside` | a list of `reason` and `count` |
//! | `places` | a list: `method`, `template`, `origin` (empty where there is one service only), `standing` (`endpoint`, `method not offered`, `no such path`), `count`, and `answers`: `status` (null: no answer), `media`, `body` (a shape's name, or words), `is_error_shape`, `count`, `addresses` (the first of them) |
//! | `shapes` | a list: `name`, `of` (`validation`, `other`), `count`, `addresses`, `phrase` (the whole shape in a line), `named_by` (how its entries name places) |
//! | `judgements` | a list, one for each sort of errors: `of`, `count`, `most` (a shape's name, or null), and `deviations`: `body`, `count`, `addresses`, `places` (`place` and `statuses`), `differences` (`place`, `how`: `missing`, `added`, `kind`, and what the `usual` and this one (`here`) have) |
//! | `inside` | how many successes have an error inside |
//! | `disclosed` | a list: `what` errors tell that is nobody's business, `count`, `addresses` |
//! | `losses` | what could not be read, the first of it |

mod outputs;
mod page;
mod wire;

pub use outputs::{html, markdown, overview, terminal};
pub use wire::json;
