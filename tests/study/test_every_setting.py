"""Every treatment with every value of every choice: a result or one sentence, and it opens again."""

import itertools
import unittest
from pathlib import Path

import msgspec
import numpy as np

from scutcher.core.errors import InputError
from scutcher.core.recipes.recipe import Recipe, Step
from scutcher.core.treatments import all_treatments
from scutcher.core.treatments.base import fields_of
from scutcher.study.document.commands.recipe import AddStep, ChangeStep, MoveStep, RemoveStep
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from scutcher.study.evaluation.evaluator import Evaluator
from tests.core.making import classes_of, mixed_table, moisture_of, ordered_table, random_spectra
from tests.folder import InFolder


def tables():
    values = random_spectra(10, 41) + 3.0 * np.exp(-0.5 * ((np.arange(41) - 20) / 3.0) ** 2)
    more = {"classes": (classes_of(10),), "properties": (moisture_of(10),)}
    return ordered_table(values, **more), mixed_table(values[:, :6], **more)


def settings_of(declared, table):
    """Its settings with each choice, each end of each number, names of something that is there or not."""
    start = declared.suggest(table) if declared.suggest else declared.parameters()
    yield start
    fields = fields_of(declared.parameters)
    options = {}
    for field in fields:
        if field.kind == "choice":
            options[field.name] = list(field.choices)
        elif field.kind == "bool":
            options[field.name] = [False, True]
        elif field.of:
            named = {"class column": "kind", "class": "x", "property": "moisture", "sample": table.ids[0]}
            options[field.name] = ["", named[field.of], "nobody"]
        elif field.kind == "regions":
            first, last = table.axis.places()[[1, -2]].tolist()
            options[field.name] = [(), ((first, last),), ((-5.0, -2.0),), ((last, first),)]
        elif field.kind in ("int", "float") and field.low is not None and field.high is not None:
            options[field.name] = [field.low, field.high]
    for field in fields:
        for value in options.get(field.name, ()):
            yield changed(start, **{field.name: value})
    few = [name for name in options if len(options[name]) <= 4][:4]
    for values in itertools.product(*(options[name] for name in few)):
        yield changed(start, **dict(zip(few, values, strict=True)))


def changed(parameters, **values):
    """With other values, where the declaration lets them in."""
    plain = {**msgspec.to_builtins(parameters), **values}
    try:
        return msgspec.convert(plain, type(parameters))
    except msgspec.ValidationError:
        return parameters


class EverySetting(unittest.TestCase):
    def test_a_result_or_one_sentence(self):
        for table in tables():
            evaluator = Evaluator()
            for key, declared in all_treatments().items():
                for parameters in set(settings_of(declared, table)):
                    with self.subTest(treatment=key, parameters=parameters):
                        recipe = Recipe(treat=(Step(key, parameters),))
                        with np.errstate(all="ignore"):
                            try:
                                found = evaluator.evaluate(table, recipe)
                            except InputError as error:
                                self.assertRegex(str(error), r"^[A-Z0-9'\"].*\.$")
                                continue
                        self.assertTrue(np.isfinite(found.model.scores).all())


class EveryCommand(InFolder):
    def test_what_is_kept_opens_again_as_what_it_is(self):
        table = tables()[0]
        path = Path(self.folder) / "s.scutch"
        study = Study(State.of("t", table))
        study.keep_in(path)
        self.addCleanup(study.close)
        for key, declared in all_treatments().items():
            for place, parameters in enumerate(list(dict.fromkeys(settings_of(declared, table)))[:4]):
                command = AddStep(key, parameters) if place == 0 else ChangeStep(0, parameters)
                study.do(command)
            study.do(AddStep("snv", None, 0))
            study.do(MoveStep(0, 1))
            study.do(RemoveStep(1))
            study.do(RemoveStep(0))
        for parameters in (all_treatments()["snv"].parameters(), all_treatments()["msc"].parameters()):
            study.do(AddStep("gaussian-smooth"))
            before = study.state
            with self.assertRaisesRegex(InputError, "are not settings of Gaussian"):
                study.do(ChangeStep(0, parameters))
            self.assertIs(study.state, before)
            study.undo()


if __name__ == "__main__":
    unittest.main()
