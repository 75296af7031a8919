"""All benchmarks, or those named: python -m bench [engine] [screen] [reference] [materials] [light] [crowd] [memory] [wishes]
[captures] [reckoner]."""

import sys
import warnings

from bench import captures, crowd, engine, light, materials, memory, reckoner, reference, screen, wishes
from bench.timing import line, repeated_ms

PARTS = {
    "engine": engine.run,
    "screen": screen.run,
    "reference": reference.run,
    "materials": materials.run,
    "light": light.run,
    "crowd": crowd.crowd,
    "memory": memory.run,
    "wishes": wishes.run,
    "captures": captures.run,
    "reckoner": reckoner.run,
}

if __name__ == "__main__":
    warnings.simplefilter("ignore")
    wanted = sys.argv[1:] or list(PARTS)
    unknown = [name for name in wanted if name not in PARTS]
    if unknown:
        sys.exit(f"{', '.join(unknown)}: not a benchmark; choose from {', '.join(PARTS)}.")
    print(
        line(
            "this machine: 3 million additions in plain Python",
            repeated_ms(lambda: sum(i for i in range(3_000_000)), times=3),
        )
    )
    for name in wanted:
        PARTS[name]()
