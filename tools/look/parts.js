// The framework's parts that pages use; each starts by its own data attributes.
import "bootstrap/js/src/offcanvas";
