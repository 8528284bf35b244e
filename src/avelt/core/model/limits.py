"""How large things may be. Reading never trusts: each limit has its one name here."""

MAX_FILE_BYTES = 256 * 2**20  # a project file on disk
MAX_PROJECT_JSON_BYTES = 128 * 2**20
MAX_ZIP_RATIO = 400  # unpacked size of a zip entry over its packed size
MAX_ZIP_ENTRIES = 5_000
MAX_SVG_BYTES = 24 * 2**20
MAX_PICTURE_BYTES = 64 * 2**20
MAX_PICTURE_PIXELS = 36_000_000
MAX_DEPTH = 128  # layers inside layers
MAX_LAYERS = 20_000  # in one frame
MAX_FRAMES = 2_000
MAX_PATH_NUMBERS = 400_000  # in one path layer
MAX_COORDINATE = 1e7  # px; beyond it float arithmetic on screens has no meaning
MAX_MS = 3_600_000.0  # an hour
MAX_PRESET_BYTES = 2 * 2**20
MAX_PACK_BYTES = 64 * 2**20
MAX_ROUNDS = 1_000_000  # of a phase
MIN_SIZE = 1e-6  # px; a box side below this counts as zero
