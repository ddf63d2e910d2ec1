"""What a straightforward use of libraries gives: a strip and peaks, a blob detector."""

import cv2
import numpy as np
from scipy.ndimage import gaussian_filter1d, map_coordinates
from scipy.signal import find_peaks


def count_stitches(rgb: np.ndarray, path: np.ndarray) -> int:
    """Mean brightness of a 9 px strip along the path; pitch by autocorrelation, then peaks at least 0.6 pitch apart."""
    steps = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(path, axis=0).T))])
    t = np.arange(0, steps[-1])
    line = np.stack([np.interp(t, steps, path[:, k]) for k in (0, 1)], 1)
    along = np.gradient(line, axis=0)
    across = np.stack([-along[:, 1], along[:, 0]], 1)
    grey = rgb.mean(-1)
    rows = [map_coordinates(grey, (line + k * across).T[::-1], order=1, mode="nearest") for k in range(-4, 5)]
    signal = gaussian_filter1d(np.mean(rows, axis=0), 1.0)
    signal -= gaussian_filter1d(signal, 40)
    echo = np.correlate(signal, signal, "full")[len(signal) - 1 :]
    echoes = find_peaks(echo[: len(signal) // 3])[0]
    if not len(echoes):
        return 0
    pitch = echoes[echo[echoes].argmax()]
    signal = gaussian_filter1d(signal, pitch / 6)
    found = [find_peaks(sign * signal, distance=0.6 * pitch, prominence=0.5 * signal.std())[0] for sign in (1, -1)]
    # Bright or dark thread: whichever stands out more.
    return len(max(found, key=lambda at: np.abs(signal[at]).mean() if len(at) else 0))


def count_holes(rgb: np.ndarray, region: np.ndarray) -> int:
    """OpenCV's blob detector with its usual settings for dark, round things."""
    settings = cv2.SimpleBlobDetector_Params()
    settings.filterByArea, settings.minArea, settings.maxArea = True, 12, 20_000
    settings.filterByCircularity, settings.minCircularity = True, 0.6
    grey = cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY)
    spots = cv2.SimpleBlobDetector_create(settings).detect(grey)
    polygon = region.astype(np.float32)
    return sum(cv2.pointPolygonTest(polygon, spot.pt, measureDist=False) >= 0 for spot in spots)
