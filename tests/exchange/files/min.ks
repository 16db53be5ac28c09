#version=RHEL9
text
lang en_US.UTF-8
keyboard us
timezone America/New_York --utc
rootpw --plaintext heron4
network --bootproto=dhcp --hostname=lmr-gate-04.larkmoor.example
clearpart --all --initlabel
autopart
bootloader --timeout=1
reboot --eject
%packages
@core
vim
-iwl*-firmware
%end
