vmaccepteula
clearpart --firstdisk --overwritevmfs
install --firstdisk=local --overwritevmfs --novmfsondisk
keyboard "US Default"
rootpw --iscrypted $6$abcdefghijklmnop$Hj9lGZBIg/4UElfgIfO84j1K0uMdC8OrpyFU5tjYcNrpGN7noBuYigl.Ex/vwvyN5a9S5a1s6mzehC2w67VBp1
network --bootproto=static --device=vmnic0 --ip=192.0.2.50 --netmask=255.255.255.0 --gateway=192.0.2.1 --nameserver=192.0.2.53 --hostname=lmr-host-02.larkmoor.example --addvmportgroup=0 --vlanid=20
reboot
%firstboot --interpreter=busybox
vim-cmd hostsvc/enable_ssh
vim-cmd hostsvc/start_ssh
esxcli system settings advanced set -o /UserVars/SuppressShellWarning -i 1
esxcli network vswitch standard add -v vSwitch1
