<h1>Notices to ships</h1>
<?php foreach ($sections as $title => $lines): ?>
<h2><?= $title ?></h2>
<ul>
<?php foreach ($lines as $line): ?>
  <li><?= $line ?></li>
<?php endforeach; ?>
</ul>
<?php endforeach; ?>
