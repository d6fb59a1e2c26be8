<?php

// Run in the folder above: php notice/test_notice.php

date_default_timezone_set('UTC');
require __DIR__ . '/NoticePage.php';

use Saltmarsh\Notice\NoticePage;
use function Saltmarsh\Notice\{day, marked};

function check(string $name, $got, $expected): void
{
    if ($got !== $expected) {
        throw new Exception("$name: " . var_export($got, true));
    }
    echo "$name ok\n";
}

check('day', day('2031-05-04'), '4 May');
check('marked', marked('Quay <2>', true), '! Quay &lt;2&gt;');

$page = new NoticePage('2031-05-04');
$page->addWorks([
    ['text' => 'Berth 3 closed', 'from' => '2031-05-02', 'until' => '2031-05-09', 'urgent' => true],
    ['text' => 'Dredging', 'from' => '2031-04-01', 'until' => '2031-05-03', 'urgent' => false],
]);
$page->addLights([
    ['text' => 'Buoy 7 out', 'from' => '2031-05-04', 'until' => '2031-05-06', 'urgent' => false],
]);
check('urgent', $page->urgent(), 1);
$html = $page->html();
check('works', str_contains($html, '<li>! Berth 3 closed (2 May to 9 May)</li>'), true);
check('past works', str_contains($html, 'Dredging'), false);
check('lights', str_contains($html, '<li>Buoy 7 out (4 May to 6 May)</li>'), true);
check('sections', substr_count($html, '<h2>'), 2);
