"""Makes the awkward files of named arrays: name → function that writes it, from the truth."""

from pathlib import Path

import numpy as np

from tests.files.awkward.truth import IDS, KINDS, MOISTURE, NM, VALUES


def two_groups(path: Path) -> None:
    import h5py

    with h5py.File(path, "w") as file:
        for name, rows in (("monday", slice(0, 6)), ("tuesday", slice(6, 12))):
            group = file.create_group(name)
            group["spectra"], group["wavelength"] = VALUES[rows], NM
            group["sample"], group["moisture"] = list(IDS[rows]), MOISTURE[rows]


def shared_axis(path: Path) -> None:
    import h5py

    with h5py.File(path, "w") as file:
        file["wavelength"] = NM
        file["wavelength"].attrs["units"] = "nm"
        group = file.create_group("mill/intake")
        group["absorbance"] = VALUES.astype(np.float32)
        group["lot"], group["retting"] = list(IDS), list(KINDS)


def cube_of_repeats(path: Path) -> None:
    import h5py

    with h5py.File(path, "w") as file:
        file["spectra"] = np.stack([VALUES, VALUES + 0.001], axis=1)
        file["wavelength"], file["sample"] = NM, list(IDS)


def cube_beside_a_small_matrix(path: Path) -> None:
    np.savez(path, image=VALUES.reshape(3, 4, 25), corners=np.arange(8.0).reshape(4, 2), wavelength=NM)


def rising_property(path: Path) -> None:
    np.savez(path, X=VALUES, dose=np.arange(12.0) * 0.5, lots=np.array(IDS))


def two_matrices(path: Path) -> None:
    np.savez(path, spectra=VALUES, background=np.ones((12, 25)), wavelength=NM, sample=np.array(IDS))


def which_matrix(path: Path) -> None:
    np.savez(path, before=VALUES, after=VALUES + 1.0, wavelength=NM, sample=np.array(IDS))


def turned_with_ids(path: Path) -> None:
    np.savez(path, spectra=VALUES.T, wavelength=NM, sample=np.array(IDS))


def netcdf4(path: Path) -> None:
    import h5py

    with h5py.File(path, "w") as file:
        file["wavenumber"] = 1e7 / NM
        file["wavenumber"].make_scale("wavenumber")
        file["wavenumber"].attrs["units"] = "cm-1"
        file["sample"] = list(IDS)
        file["sample"].make_scale("sample")
        data = np.round(VALUES * 1e4).astype(np.int16)
        data[2, 3] = -999
        file["absorbance"] = data.T
        made = file["absorbance"]
        made.attrs["scale_factor"], made.attrs["_FillValue"] = 1e-4, np.int16(-999)
        made.dims[0].attach_scale(file["wavenumber"])
        made.dims[1].attach_scale(file["sample"])
        file["moisture"] = MOISTURE
        file["moisture"].dims[0].attach_scale(file["sample"])


def netcdf3_dims(path: Path) -> None:
    from scipy.io import netcdf_file

    with netcdf_file(path, "w") as file:
        for name, size in (("wavelength", 25), ("sample", 12), ("letters", 3)):
            file.createDimension(name, size)
        spectra = file.createVariable("reflectance", "f", ("wavelength", "sample"))
        spectra[:] = VALUES.T
        wavelength = file.createVariable("wavelength", "d", ("wavelength",))
        wavelength[:], wavelength.units = NM, "nm"
        file.createVariable("dose", "d", ("sample",))[:] = np.arange(12.0)
        file.createVariable("sample", "c", ("sample", "letters"))[:] = np.array(
            [list(i) for i in IDS], dtype="S1"
        )


def chromatogram(path: Path) -> None:
    from scipy.io import netcdf_file

    with netcdf_file(path, "w") as file:
        file.createDimension("point_number", 25)
        file.createVariable("ordinate_values", "f", ("point_number",))[:] = VALUES[0]
        for name, value in (("actual_sampling_interval", 0.5), ("actual_delay_time", 2.0)):
            file.createVariable(name, "f", ()).data[...] = value
        file.sample_name, file.retention_unit = "L01", "seconds"


def matlab_cells(path: Path) -> None:
    from scipy.io import savemat

    cells = np.empty((12, 1), dtype=object)
    cells[:, 0] = IDS
    kinds = np.empty((12, 1), dtype=object)
    kinds[:, 0] = KINDS
    savemat(path, {"X": VALUES, "wavelength": NM, "names": cells, "retting": kinds, "moisture": MOISTURE})


def matlab_struct(path: Path) -> None:
    from scipy.io import savemat

    cells = np.empty((12, 1), dtype=object)
    cells[:, 0] = IDS
    savemat(path, {"mill": {"spectra": VALUES, "nm": NM, "lot": cells, "moisture": MOISTURE}})


def matlab_73(path: Path) -> None:
    import h5py

    with h5py.File(path, "w", userblock_size=512) as file:

        def put(name: str, values: np.ndarray, kind: str) -> None:
            file[name] = values
            file[name].attrs["MATLAB_class"] = np.bytes_(kind)

        put("X", VALUES.T, "double")
        put("wavelength", NM[:, np.newaxis], "double")
        put("moisture", MOISTURE[np.newaxis], "double")
        references = []
        for row, name in enumerate(IDS):
            place = f"#refs#/{row}"
            put(place, np.array([[ord(letter)] for letter in name], dtype=np.uint16), "char")
            references.append(file[place].ref)
        file.create_dataset("names", data=np.array([references], dtype=h5py.ref_dtype))
        file["names"].attrs["MATLAB_class"] = np.bytes_("cell")
    with path.open("r+b") as stream:
        stream.write(b"MATLAB 7.3 MAT-file, made up for a test".ljust(124))


FILES = {
    "two_groups.h5": two_groups,
    "shared_axis.h5": shared_axis,
    "cube_of_repeats.h5": cube_of_repeats,
    "cube_beside_a_small_matrix.npz": cube_beside_a_small_matrix,
    "rising_property.npz": rising_property,
    "two_matrices.npz": two_matrices,
    "which_matrix.npz": which_matrix,
    "turned_with_ids.npz": turned_with_ids,
    "dimensions.nc": netcdf4,
    "dimensions_classic.nc": netcdf3_dims,
    "chromatogram.cdf": chromatogram,
    "cells.mat": matlab_cells,
    "structure.mat": matlab_struct,
    "level_73.mat": matlab_73,
}
