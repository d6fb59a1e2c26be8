<?php

namespace Saltmarsh\Notice;

/** `2031-05-04` is shown as `4 May`. */
function day(string $date): string
{
    return date('j M', strtotime($date . ' 12:00 UTC'));
}

/** A text that can stand in a page, with a mark when it is urgent. */
function marked(string $text, bool $urgent): string
{
    $text = htmlspecialchars($text);
    return $urgent ? "! $text" : $text;
}
