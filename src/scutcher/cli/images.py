"""Images on the command line: what is asked of them, `fit` on one, and `map`."""

from __future__ import annotations

import argparse
import sys
import time
from pathlib import Path
from typing import TYPE_CHECKING

from scutcher.cli.options import DONE, Commands, add_data_options, add_limits_option, data_of, say_written

if TYPE_CHECKING:
    from scutcher.core.arrays import Booleans
    from scutcher.core.images.image import Image
    from scutcher.core.recipes.recipe import Recipe
    from scutcher.study.cluster import Cluster


def add_cluster_option(parser: argparse.ArgumentParser) -> None:
    """Ask for a cluster."""
    parser.add_argument(
        "--cluster", metavar="ADDRESS", help="let the dask workers of this scheduler go over the image"
    )


def add_image_options(parser: argparse.ArgumentParser) -> None:
    """Ask how an image lies in its file, and for a mask."""
    parser.add_argument(
        "--layout",
        metavar="ROWSxCOLUMNS",
        help="samples are pixels: rows x columns, for raw numbers ROWSxCOLUMNSxCHANNELS:TYPE[-big][:ORDER]"
        "[+BYTES] (as 64x96x160:uint16:yxc); or the two columns of the places of a table, as x,y",
    )
    parser.add_argument(
        "--mask",
        metavar="CHANNEL>VALUE|FILE",
        help="only pixels where it holds (2100>0.62), or that are not zero in a map (.npy, .csv, .png, .tif)",
    )

    parser.add_argument("--bin", type=int, default=1, metavar="N", help="means of squares of N x N pixels")
    parser.add_argument(
        "--align", action="store_true", help="bring several images over the first, by cross-correlation"
    )


def add(commands: Commands) -> None:
    """Its place in the command line."""
    mapped = commands.add_parser("map", help="score and distance maps of an image")
    mapped.add_argument("model", type=Path, metavar="MODEL", help="model.json of fit, or a study")
    add_data_options(mapped)
    add_image_options(mapped)
    add_limits_option(mapped)
    mapped.add_argument("--out", type=Path, required=True, metavar="DIR")
    mapped.set_defaults(run=_map)


def wants_image(options: argparse.Namespace) -> bool:
    """Whether data are to be worked on as an image, or where they lie."""
    from scutcher.files.images.opening import RAW, is_large

    return bool(
        options.layout
        or options.mask
        or options.kind == "maf"
        or options.bin != 1
        or options.align
        or options.cluster
        or any(path.suffix.lower() in RAW or is_large(path) for path in options.data)
    )


def image_of(options: argparse.Namespace) -> Image:
    """The image in the files that were named, with its mask.

    Raises
    ------
    InputError
    """
    from scutcher.core.images.alignment import aligned
    from scutcher.core.images.binning import binned
    from scutcher.core.images.of_table import image_of_table
    from scutcher.files.images.opening import can_open, open_image, stacked
    from scutcher.files.images.shape import shape_of

    names = _place_columns(options.layout)
    if not all(can_open(path) for path in options.data):
        image = image_of_table(data_of(options), names)
    else:
        shape = shape_of(options.layout) if options.layout and names is None else None
        sheet = options.sheet[0] if options.sheet else None
        image = stacked([open_image(path, shape, sheet) for path in options.data])
    if options.align:
        image, shifts = aligned(image)
        print(f"scutcher: shifts (rows, columns): {', '.join(map(str, shifts))}", file=sys.stderr)
    image = binned(image, options.bin)
    return image if options.mask is None else image.masked(_mask(options.mask, image))


def _place_columns(layout: str | None) -> tuple[str, str] | None:
    if layout is None or "," not in layout:
        return None
    across, _, down = layout.partition(",")
    return across.strip(), down.strip()


def _mask(text: str, image: Image) -> Booleans:
    from scutcher.core.images.masking import mask_by, threshold_of
    from scutcher.files.images.masks import read_mask

    path = Path(text)
    if path.suffix and path.exists():
        return read_mask(path, image)
    return mask_by(image, threshold_of(text, image.axis))


def fit_image_files(options: argparse.Namespace, recipe: Recipe) -> int:
    """`fit` on an image: model, figures and maps."""
    from msgspec.structs import replace

    from scutcher.charts.map_files import write_maps
    from scutcher.charts.maps import maps_of_model
    from scutcher.core.images.streamed_model import fit_image
    from scutcher.study.results.image_results import image_plain, write_image_fit

    image = image_of(options)
    if options.recipe is None:
        scheme = "random" if image.layout.columns == 1 else "tiles"
        recipe = replace(recipe, validate=replace(recipe.validate, scheme=scheme))
    if options.kind == "maf":
        return _fit_smooth(options, recipe, image)
    start = time.perf_counter()
    if options.cluster:
        cluster = _cluster(options)
        try:
            model, maps = fit_image(image, recipe, passes=cluster)
        finally:
            cluster.close()
    else:
        model, maps = fit_image(image, recipe)
    seconds = time.perf_counter() - start
    written = write_image_fit(options.out, image, recipe, model, maps, seconds)
    written += write_maps(options.out / "maps", maps_of_model(image, maps), {"image": image_plain(image)})
    say_written(written, recipe, options.data)
    return DONE


def _cluster(options: argparse.Namespace) -> Cluster:
    """The cluster, whose workers open the same files."""
    from scutcher.core.errors import FileError
    from scutcher.files.images.opening import can_open
    from scutcher.files.images.shape import shape_of
    from scutcher.study.cluster import Cluster, ImageSource

    if options.bin != 1 or options.align:
        raise FileError("A cluster works on the pixels as they are.", "Leave --bin and --align out.")
    if not all(can_open(path) for path in options.data):
        raise FileError("A cluster works on images in array files.", "Save the image as .npy, HDF5 or Zarr.")
    shape = shape_of(options.layout) if options.layout else None
    paths = tuple(str(path.resolve()) for path in options.data)
    return Cluster(options.cluster, ImageSource(paths, shape, options.sheet[0] if options.sheet else None))


def _fit_smooth(options: argparse.Namespace, recipe: Recipe, image: Image) -> int:
    from scutcher.charts.map_files import write_maps
    from scutcher.charts.maps import maps_of_smooth_order
    from scutcher.core.images.pixel_treatment import learn
    from scutcher.core.images.smooth_order import smooth_order, smooth_scores
    from scutcher.core.images.tile_work import Here
    from scutcher.study.results.image_results import image_plain, write_smooth_order

    treatment = learn(image, recipe.treat, Here().mean)
    found = smooth_order(treatment)
    k = min(options.components or 4, len(found.kappa))
    written = write_smooth_order(options.out, image, found, treatment.axis.labels)
    maps = maps_of_smooth_order(image, smooth_scores(treatment, found, k))
    written += write_maps(options.out / "maps", maps, {"image": image_plain(image)})
    say_written(written, recipe, options.data)
    return DONE


def _map(options: argparse.Namespace) -> int:
    from scutcher.charts.map_files import write_maps
    from scutcher.charts.maps import maps_of_model
    from scutcher.cli.studies import model_of_study
    from scutcher.core.images.projecting import project_image
    from scutcher.files.model_json import read_model
    from scutcher.study.results.image_results import image_plain

    of_study = options.model.suffix == ".scutch"
    model = (model_of_study(options.model) if of_study else read_model(options.model)).judging(options.limits)
    image = image_of(options)
    maps = project_image(model, image)
    about = {"image": image_plain(image), "limits": {"basis": model.basis, "level": model.level}}
    for path in write_maps(options.out, maps_of_model(image, maps), about):
        print(path)
    return DONE
