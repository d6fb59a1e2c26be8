<?php

namespace Saltmarsh\Notice;

require_once __DIR__ . '/texts.php';

/** The public page with the harbour's notices to ships. */
class NoticePage
{
    private array $sections = [];
    private int $urgent = 0;

    public function __construct(private string $today)
    {
    }

    /** Works on berths and quays, those of today first. */
    public function addWorks(array $works): void
    {
        $lines = [];
        foreach ($works as $work) {
            if ($work['until'] < $this->today) {
                continue;
            }
            $line = marked($work['text'], $work['urgent']);
            $lines[] = $line . ' (' . day($work['from']) . ' to ' . day($work['until']) . ')';
            if ($work['urgent']) {
                $this->urgent++;
            }
        }
        sort($lines);
        $this->sections['Works'] = $lines;
    }

    /** Buoys and lights that are out, those of today first. */
    public function addLights(array $lights): void
    {
        $lines = [];
        foreach ($lights as $light) {
            if ($light['until'] < $this->today) {
                continue;
            }
            $line = marked($light['text'], $light['urgent']);
            $lines[] = $line . ' (' . day($light['from']) . ' to ' . day($light['until']) . ')';
            if ($light['urgent']) {
                $this->urgent++;
            }
        }
        sort($lines);
        $this->sections['Lights'] = $lines;
    }

    public function urgent(): int
    {
        return $this->urgent;
    }

    /** All sections as a page. */
    public function html(): string
    {
        $sections = $this->sections;
        ob_start();
        require __DIR__ . '/page.php';
        return ob_get_clean();
    }
}
