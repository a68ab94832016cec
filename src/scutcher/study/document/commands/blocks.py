"""Commands on several tables: how they are matched and compared."""

from __future__ import annotations

from dataclasses import dataclass, replace

from scutcher.core.recipes.block_settings import BlocksSettings
from scutcher.study.document.state import State


@dataclass(frozen=True)
class BlocksBy:
    """Other settings of the comparison of the data sets."""

    settings: BlocksSettings

    def label(self, state: State) -> str:
        return "Blocks: " + _said(state.blocks, self.settings)

    def apply(self, state: State) -> State:
        return state if self.settings == state.blocks else replace(state, blocks=self.settings)


def _said(before: BlocksSettings, after: BlocksSettings) -> str:
    words = []
    if before.match != after.match:
        words.append(f"matched by {after.match or 'id'}")
    old, new = dict(before.ranks), dict(after.ranks)
    words += [f"{name} in {k} components" for name, k in new.items() if old.get(name) != k]
    words += [f"components of {name} as suggested" for name in old if name not in new]
    counted, count_now = dict(before.counts), dict(after.counts)
    words += [
        f"{k} in common to {' and '.join(names)}" for names, k in count_now.items() if counted.get(names) != k
    ]
    words += [f"as found for {' and '.join(names)}" for names in counted if names not in count_now]
    words += [f"without {name}" for name in after.without if name not in before.without]
    words += [f"with {name}" for name in before.without if name not in after.without]
    for key, name in (("level", "level"), ("floor", "least agreement"), ("permutations", "draws")):
        one, two = getattr(before, key), getattr(after, key)
        if one != two:
            words.append(f"{name} {one:g} → {two:g}")
    if before.series != after.series:
        words.append("samples follow each other" if after.series else "samples stand for themselves")
    if before.parts != after.parts:
        words.append(f"{len(after.parts)} parts" if after.parts else "whole tables")
    return "; ".join(words) or "other settings"
