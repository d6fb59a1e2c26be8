"""Tide tables: heights in metres over chart datum, times in hours."""

import math

LUNAR_DAY = 24.84


def height_at(mean, swing, hour):
    return mean + swing * math.cos(4 * math.pi * hour / LUNAR_DAY)


def high_waters(mean, swing, until):
    """Times and heights at which the water stands highest."""
    found = []
    step = 0.25
    hour = step
    while hour < until - step:
        before = height_at(mean, swing, hour - step)
        here = height_at(mean, swing, hour)
        after = height_at(mean, swing, hour + step)
        if here >= max(before, after):
            found.append((hour, round(here, 2)))
        hour += step
    return found


def low_waters(mean, swing, until):
    """Times and heights at which the water stands lowest."""
    found = []
    step = 0.25
    hour = step
    while hour < until - step:
        before = height_at(mean, swing, hour - step)
        here = height_at(mean, swing, hour)
        after = height_at(mean, swing, hour + step)
        if here <= min(before, after):
            found.append((hour, round(here, 2)))
        hour += step
    return found


def window(mean, swing, draught, depth):
    """First and last hour of the day at which a ship floats at a berth."""
    hours = [h / 4 for h in range(96)]
    afloat = [h for h in hours if depth + height_at(mean, swing, h) > draught + 0.5]
    if not afloat:
        return None
    return afloat[0], afloat[-1]


def spring_summary(readings):
    heights = [r["height"] for r in readings if r["valid"]]
    lowest = min(heights)
    highest = max(heights)
    mean = sum(heights) / len(heights)
    if highest - lowest > 6:
        raise ValueError("the gauge is broken")
    text = "springs: %.2f to %.2f, mean %.2f" % (lowest, highest, mean)
    return text


def neap_summary(readings):
    heights = [r["height"] for r in readings if r["valid"]]
    lowest = min(heights)
    highest = max(heights)
    mean = sum(heights) / len(heights)
    if highest - lowest > 6:
        raise ValueError("the gauge is broken")
    text = "neaps: %.2f to %.2f, mean %.2f" % (lowest, highest, mean)
    return text
