"""The robust fit of the registration against scipy's general solver."""

from unittest import TestCase

import numpy as np
from scipy.optimize import least_squares

from lens.photo.registration import Registration, fit

SIZE, ROBUST_PX, NOISE_PX = (4000, 3000), 0.3, 0.2


class Fit(TestCase):
    def test_it_ends_where_scipy_does(self) -> None:
        rng = np.random.default_rng(3)
        grid = np.stack(np.meshgrid(np.linspace(0, 1919, 9), np.linspace(0, 1079, 9)), axis=-1).reshape(-1, 2)
        for count in (6, 12, 24, 50, 108):
            turned = np.array(
                [[1.8, rng.normal(0, 0.1), 300], [rng.normal(0, 0.1), 1.8, 300], [*rng.normal(0, 2e-5, 2), 1]]
            )
            true = Registration(turned, rng.normal(0, 0.01), 0.0 if count < 24 else rng.normal(0, 0.003), *SIZE, 0.0, 0)
            points = rng.uniform(0, 1, (count, 2)) * [1919, 1079]
            seen = true.to_photo(points) + rng.normal(0, NOISE_PX, (count, 2))
            seen[: count // 12] += rng.normal(0, 20, (count // 12, 2))
            own = fit(points, seen, SIZE, ROBUST_PX)

            def unpacked(p: np.ndarray, count: int = count) -> Registration:
                h = np.append(p[:8], 1.0).reshape(3, 3) @ np.diag([1e-3, 1e-3, 1])
                return Registration(h, float(p[8]), float(p[9]) if count >= 24 else 0.0, *SIZE, 0.0, 0)

            start = np.concatenate([(turned @ np.diag([1e3, 1e3, 1])).ravel()[:8], np.zeros(2 if count >= 24 else 1)])
            solved = least_squares(
                lambda p, points=points, seen=seen: (unpacked(p).to_photo(points) - seen).ravel(),
                start,
                loss="soft_l1",
                f_scale=ROBUST_PX,
                x_scale="jac",
                xtol=1e-12,
                ftol=1e-12,
            )
            self.assertLess(
                np.abs(unpacked(solved.x).to_photo(grid) - own.to_photo(grid)).max(), 0.02, f"{count} points"
            )

    def test_points_on_a_line_end_in_numbers(self) -> None:
        line = np.stack([np.linspace(0, 1000, 12), np.linspace(0, 500, 12)], axis=1)
        self.assertEqual(fit(line, 2 * line + 100, SIZE).anchors, 12)
